/** What the files of a plate mean: their layers, and the numbers of depth. */
import type { Plate } from "#core/document/plate";
import { alongOf } from "#core/plate/begin";
import { formatNumber } from "#core/document/quantities";
import { NumberField } from "../../../shared/NumberField";
import { Choice, Select, Switch } from "../../../shared/controls";
import type { PlateFacts } from "../../model/scene-worker";
import { usePlateEdit } from "./use-plate";

/** Names of layers to choose from, with the one that is chosen. */
const layers = (names: readonly string[], now: string): (readonly [string, string])[] =>
  [...new Set([...names, now])].map((n) => [n, n || "main picture"] as const);

export function PlateDepth({ plate, facts }: { plate: Plate; facts: PlateFacts | null }) {
  const { set, gesture } = usePlateEdit();
  return (
    <>
      {facts && facts.layers.picture.length > 1 && (
        <Select
          label="Colours"
          value={plate.layer}
          options={layers(facts.layers.picture, plate.layer)}
          tooltip="Layer of the file whose light is the picture."
          onChange={(layer) => set({ layer })}
        />
      )}
      {facts && facts.layers.depth.length > 1 && (
        <Select
          label="Depth"
          value={plate.depthLayer}
          options={layers(facts.layers.depth, plate.depthLayer)}
          tooltip="Layer of the file that is depth."
          onChange={(depthLayer) => set({ depthLayer, along: alongOf(depthLayer) })}
        />
      )}
      <Choice
        label="Depth is along"
        value={plate.along}
        options={[
          ["axis", "axis"],
          ["ray", "ray"],
        ]}
        tooltip="Most programs write depth along the axis of the lens; distance is along the ray of each pixel, longer towards the corners."
        onChange={(along) => set({ along })}
      />
      <Switch
        label="Whole numbers"
        on={plate.range !== null}
        tooltip="The depth runs from black to white, between two depths that are said here: 16-bit PNG and TIFF."
        onChange={(on) => set({ range: on ? [0, 100] : null })}
      />
      {plate.range &&
        (["Black stands for", "White stands for"] as const).map((label, k) => (
          <NumberField
            key={label}
            label={label}
            unit=""
            value={plate.range![k]!}
            min={0}
            max={1e9}
            useful={[0, 500]}
            step={0.1}
            reset={k === 0 ? 0 : 100}
            onGesture={gesture}
            tooltip={k === 0 ? "Depth of black, in units." : "Depth of white, in units; what is white is the sky."}
            onChange={(v) => {
              const next: [number, number] = k === 0 ? [v, plate.range![1]] : [plate.range![0], v];
              if (next[0] !== next[1]) set({ range: next });
            }}
          />
        ))}
      <Switch
        label="Depth is inverted"
        on={plate.inverted}
        tooltip={plate.range ? "White is near." : "The numbers are one over the depth."}
        onChange={(inverted) => set({ inverted })}
      />
      <NumberField
        logarithmic
        label="A unit is"
        unit="m"
        quantity="length"
        value={plate.unit}
        min={1e-6}
        max={1e6}
        useful={[0.001, 1000]}
        reset={1}
        onGesture={gesture}
        tooltip="Metres that a unit of the depth has: 0.01 for centimetres, 0.3048 for feet. Measure something of known length under Size of the set to find it."
        onChange={(unit) => set({ unit })}
      />
      <Switch
        label="Sky is finite"
        on={plate.sky !== null}
        tooltip="The sky has a depth, too, that stands for endless: beyond it there is nothing but air."
        onChange={(on) => set({ sky: on ? 1000 : null })}
      />
      {plate.sky !== null && (
        <NumberField
          logarithmic
          label="Sky beyond"
          unit=""
          value={plate.sky}
          min={1e-6}
          max={1e9}
          useful={[10, 100000]}
          reset={1000}
          onGesture={gesture}
          tooltip="Depth in units from which on nothing is there."
          onChange={(sky) => set({ sky })}
        />
      )}
      <NumberField
        whole
        label="Light of white"
        unit="stops"
        quantity="count"
        value={plate.light}
        min={-20}
        max={30}
        useful={[0, 16]}
        step={1}
        reset={12}
        onGesture={gesture}
        tooltip={`Luminance that 1 stands for, as a power of two: now ${formatNumber(2 ** plate.light, 3)} cd/m². The lights of the air are measured against it.`}
        onChange={(light) => set({ light })}
      />
    </>
  );
}
