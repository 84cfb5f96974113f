/** Where a medium lies. */
import { type Box, middleOf, sizeOf } from "#core/math/box";
import { map3 } from "#core/math/vectors";
import { regionBox } from "#core/scene/sight";
import { sightNow } from "../../model/sight";
import { optionsOf, REGION_OPTIONS } from "../../model/kind-options";
import { useMemo, useState } from "react";
import type { Medium, SceneDocument } from "#core/document/schema";
import { NumberField } from "../../../shared/NumberField";
import { useBench, useDocument, useView } from "../../model/context";
import { FollowField } from "../FollowField";
import { MediumGroup } from "../Group";
import { Select } from "../../../shared/controls";
import type { MediumFields } from "../../model/medium-fields";
import { unreachable } from "#core/layout/codes";

type Region = Medium["region"];
/** A region of another kind that fills a box. */
function regionOf(kind: Region["kind"], bounds: Readonly<Box>): Region {
  const tidy = (v: number): number => Number(v.toFixed(3));
  const centre = map3(middleOf(bounds), tidy);
  const size = map3(sizeOf(bounds), (s) => tidy(Math.max(0.1, s)));
  const radius = tidy(Math.max(size[0], size[2]) / 2);
  const rotation: [number, number, number] = [0, 0, 0];
  switch (kind) {
    case "box":
      return { kind, centre, size, rotation };
    case "sphere":
      return { kind, centre, radius };
    case "cylinder":
    case "cone":
      return { kind, centre, radius, height: size[1], rotation };
    case "layer":
      return { kind, level: centre[1], up: [0, 1, 0] };
    case "everywhere":
    case "mesh":
      // a mesh is chosen by its object
      return { kind: "everywhere" };
    default:
      return unreachable(kind, "region");
  }
}

const VECTORS = {
  centre: { word: "Centre", tooltip: "Middle of the region." },
  size: { word: "Size", tooltip: "Length of the box along its own axis." },
  rotation: { word: "Rotation", tooltip: "Rotation of the region about this axis." },
} as const;
const NUMBERS = {
  radius: { word: "Radius", tooltip: "From the axis or the middle to the border; of a cone, at its base." },
  height: { word: "Height", tooltip: "Length along the region's own upright axis." },
  level: { word: "Top", tooltip: "The medium fills everything below this height." },
} as const;

const within = (object: string): string => `inside:${object}`;

/** Names of objects that may have an inside: of what is no flat shape. */
function fillable(doc: SceneDocument, region: Region): string[] {
  const solid = doc.objects.flatMap((o) => (o.name && o.kind !== "rectangle" && o.kind !== "disk" ? [o.name] : []));
  return [...new Set([...solid, ...(region.kind === "mesh" ? [region.object] : [])])];
}

export function RegionFields({ medium, reach, set }: MediumFields) {
  const bench = useBench();
  const { store, view, session } = bench;
  const doc = useDocument();
  const gaps = useView((s) => s.gaps);
  const [problem, setProblem] = useState<string | null>(null);
  const region = medium.region;
  const gesture = (a: boolean): void => store.gesture(a);
  const values = region as Record<string, unknown>;
  const objects = useMemo(() => fillable(doc, region), [doc, region]);
  /** Fills an object where it is closed; else shows where it is open. */
  const fill = async (object: string): Promise<void> => {
    try {
      const edges = await session.worker.openEdges(doc, object);
      if (edges.length > 0) view.setState({ gaps: { object, edges } });
      else set({ region: { kind: "mesh", object } });
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  const put = (what: string, value: unknown): void => set({ region: { ...region, [what]: value } });
  return (
    <MediumGroup id="placement" medium={medium}>
      <Select
        label="Region"
        value={region.kind === "mesh" ? within(region.object) : region.kind}
        options={[...optionsOf(REGION_OPTIONS, ["mesh"]), ...objects.map((name) => [within(name), `inside ${name}`] as const)]}
        tooltip="Where this medium is, also inside any closed object. The camera may be inside, outside or on its border."
        onChange={(chosen) => {
          view.setState({ gaps: null });
          setProblem(null);
          const object = objects.find((name) => within(name) === chosen);
          if (object !== undefined) void fill(object);
          else if (chosen !== region.kind)
            set({
              region: regionOf(chosen as Region["kind"], regionBox(doc, sightNow(bench))),
              ...(chosen === "everywhere" ? { edge: 0 } : {}),
            });
        }}
      />
      {gaps && (
        <p role="alert" className="text-xs text-warning">
          {gaps.object} is open at {gaps.edges.length / 6} edges, which are marked in the picture: it has no inside that air could fill.
          Close it where it was modelled, or take a box.{" "}
          <button className="link" onClick={() => view.setState({ gaps: null })}>
            Put the marks away
          </button>
        </p>
      )}
      {problem && (
        <p role="alert" className="text-xs break-words text-error">
          {problem}
        </p>
      )}
      {Object.entries(VECTORS).map(([what, { word, tooltip }]) =>
        what in values
          ? (["x", "y", "z"] as const).map((axis, k) => (
              <NumberField
                key={what + axis}
                label={`${word} ${axis}`}
                unit={what === "rotation" ? "°" : "m"}
                quantity={what === "rotation" ? "angle" : "length"}
                value={(values[what] as number[])[k]!}
                min={what === "size" ? 1e-3 : what === "rotation" ? -360 : -1e5}
                max={what === "rotation" ? 360 : 1e5}
                useful={what === "size" ? [reach / 100, reach] : what === "rotation" ? [-180, 180] : [-reach / 2, reach / 2]}
                step={what === "rotation" ? 1 : reach / 400}
                reset={what === "size" ? reach / 2 : 0}
                onGesture={gesture}
                tooltip={tooltip}
                onChange={(v) =>
                  put(
                    what,
                    (values[what] as number[]).map((old, i) => (i === k ? v : old)),
                  )
                }
              />
            ))
          : null,
      )}
      {Object.entries(NUMBERS).map(([what, { word, tooltip }]) =>
        what in values ? (
          <NumberField
            key={what}
            label={word}
            unit="m"
            quantity="length"
            value={values[what] as number}
            min={what === "level" ? -1e5 : 1e-3}
            max={1e5}
            useful={what === "level" ? [-reach / 2, reach / 2] : [reach / 100, reach]}
            step={reach / 400}
            reset={what === "level" ? 0 : reach / 4}
            onGesture={gesture}
            tooltip={tooltip}
            onChange={(v) => put(what, v)}
          />
        ) : null,
      )}
      {("centre" in region || medium.grid) && <FollowField lights value={medium.follows} onChange={(follows) => set({ follows })} />}
      {region.kind !== "everywhere" && (
        <NumberField
          label="Soft edge"
          unit="m"
          quantity="length"
          value={medium.edge}
          min={0}
          max={1e5}
          useful={[0, reach / 4]}
          step={reach / 800}
          reset={0}
          onGesture={gesture}
          tooltip="Width of the border over which density rises from 0 to its full value, inwards."
          onChange={(edge) => set({ edge })}
        />
      )}
    </MediumGroup>
  );
}
