/** The air: its media as a stack, the fields of the one that is open, and how truly all of it is computed. */
import { useState } from "react";
import type { Medium } from "#core/document/schema";
import { DensityFields } from "./air/DensityFields";
import { NoiseFields } from "./air/NoiseFields";
import { ColourFields } from "./air/ColourFields";
import { Diagnosis } from "./air/Diagnosis";
import { PhaseFields } from "./air/PhaseFields";
import { GridFields } from "./air/GridFields";
import { HeightFields } from "./air/HeightFields";
import { PinFields } from "./air/PinFields";
import { useLengths } from "../../shared/units";
import { useReach } from "../model/medium-fields";
import { RegionFields } from "./air/RegionFields";
import { ShapeFields } from "./air/ShapeFields";
import { SeenByFields } from "./air/SeenByFields";
import { MediaList } from "./air/MediaList";
import { TransportFields } from "./air/TransportFields";
import { useBench, useDocument, useView } from "../model/context";
import { withMedium } from "../model/store";

export function AirPart() {
  const doc = useDocument();
  const chosen = useView((s) => s.medium);
  const index = Math.min(chosen, doc.air.length - 1);
  const medium = doc.air[index];
  return (
    <>
      <Diagnosis />
      <MediaList index={index} />
      {medium && <AirFields key={index} medium={medium} index={index} />}
      {medium && <TransportFields />}
    </>
  );
}

function AirFields({ medium, index }: { medium: Medium; index: number }) {
  const { store } = useBench();
  const reach = useReach();
  const { reference } = useLengths();
  /** Null: the handy one of the project's units. */
  const [chosen, setDistance] = useState<number | null>(null);
  const distance = chosen ?? reference;
  const p = { medium, index, reach, set: (change: Partial<Medium>) => store.getState().set((d) => withMedium(d, index, change)) };
  return (
    <div role="group" aria-label={medium.name}>
      <DensityFields {...p} distance={distance} setDistance={setDistance} />
      <ColourFields {...p} distance={distance} />
      <HeightFields {...p} />
      <NoiseFields {...p} />
      <RegionFields {...p} />
      <PhaseFields {...p} />
      <PinFields medium={medium} index={index} />
      <GridFields {...p} />
      <ShapeFields {...p} />
      <SeenByFields {...p} />
    </div>
  );
}
