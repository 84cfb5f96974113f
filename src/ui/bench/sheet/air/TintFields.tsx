/** What a channel of a grid makes of the medium's scattering: a ramp of colours, or the colours that the file holds. */
import { map3 } from "#core/math/vectors";
import { useState } from "react";
import { tintSchema, type GridTint, type VolumeGrid } from "#core/document/air";
import { ColourField, cssColour } from "../../../shared/ColourField";
import { useBench } from "../../model/context";
import { Num } from "../../../shared/Num";
import type { VolumeContent } from "../../model/scene-worker";
import { alongRadios, Select } from "../../../shared/controls";

type Ramp = Extract<GridTint, { from: "ramp" }>;

/** Names that stand for three channels each: name.x, name.y and name.z. */
export const colourChannels = (names: readonly string[]): string[] =>
  names.flatMap((n) =>
    n.endsWith(".x") && names.includes(`${n.slice(0, -2)}.y`) && names.includes(`${n.slice(0, -2)}.z`) ? [n.slice(0, -2)] : [],
  );

export function TintFields(p: { grid: VolumeGrid; grids: VolumeContent["grids"]; onChange(tint: GridTint | null): void }) {
  const { tint } = p.grid;
  const names = p.grids.map((g) => g.name);
  const colours = colourChannels(names);
  const ramp = (channel: string): GridTint => {
    const g = p.grids.find((x) => x.name === channel);
    const [low, high] = g && g.max > g.min ? [g.min, g.max] : [0, 1];
    return tintSchema.parse({ from: "ramp", channel, low: Number(low.toPrecision(4)), high: Number(high.toPrecision(4)) });
  };
  return (
    <>
      <Select
        label="Tint"
        value={tint?.from ?? "none"}
        options={
          [
            ["none", "not"],
            ["ramp", "by a channel"],
            ...(colours.length > 0 || tint?.from === "colours" ? [["colours", "as the file says"] as const] : []),
          ] as const
        }
        tooltip="Tints the scattering colour per voxel; the rest is absorbed. Density does not change."
        onChange={(from) =>
          p.onChange(
            from === "ramp"
              ? ramp(names.find((n) => /temp|heat/i.test(n)) ?? names[0] ?? "temperature")
              : from === "colours"
                ? tintSchema.parse({ from, channel: colours[0] })
                : null,
          )
        }
      />
      {tint && (
        <Select
          label="Tint channel"
          value={tint.channel}
          options={[...new Set([...(tint.from === "ramp" ? names : colours), tint.channel])].map((n) => [n, n] as const)}
          tooltip="Channel of the file that it reads."
          onChange={(channel) =>
            p.onChange(tint.from === "ramp" ? ({ ...ramp(channel), colours: tint.colours } as GridTint) : { ...tint, channel })
          }
        />
      )}
      {tint?.from === "ramp" && <RampFields ramp={tint} grids={p.grids} onChange={p.onChange} />}
    </>
  );
}

function RampFields({ ramp, grids, onChange }: { ramp: Ramp; grids: VolumeContent["grids"]; onChange(t: GridTint): void }) {
  const { store } = useBench();
  const [chosen, setChosen] = useState(0);
  const at = Math.min(chosen, ramp.colours.length - 1);
  const [place, colour] = ramp.colours[at]!;
  const g = grids.find((x) => x.name === ramp.channel);
  const useful: [number, number] = [g?.min ?? 0, g?.max ?? 1];
  const step = (useful[1] - useful[0]) / 200 || 0.01;
  const set = (colours: Ramp["colours"]): void => onChange({ ...ramp, colours });
  const value = (share: number): number => ramp.low + share * (ramp.high - ramp.low);
  const add = (): void => {
    // in the middle of what follows, or of what went before
    const next = at < ramp.colours.length - 1 ? at : at - 1;
    const [a, b] = [ramp.colours[next]!, ramp.colours[next + 1]!];
    if (b[0] - a[0] < 0.02) return;
    const middle = map3(a[1], (v, k) => Number(((v + b[1][k]) / 2).toFixed(3)));
    set([...ramp.colours.slice(0, next + 1), [Number(((a[0] + b[0]) / 2).toFixed(3)), middle], ...ramp.colours.slice(next + 1)]);
    setChosen(next + 1);
  };
  const low = at > 0 ? ramp.colours[at - 1]![0] + 0.005 : 0,
    high = at < ramp.colours.length - 1 ? ramp.colours[at + 1]![0] - 0.005 : 1;
  return (
    <>
      <div className="relative mt-1 h-6" role="radiogroup" aria-label="Colours of the ramp" onKeyDown={alongRadios}>
        <div
          aria-hidden
          className="absolute inset-x-0 top-0 h-3"
          style={{ background: `linear-gradient(to right, ${ramp.colours.map(([s, c]) => `${cssColour(c)} ${100 * s}%`).join(", ")})` }}
        />
        {ramp.colours.map(([s, c], i) => (
          <button
            key={i}
            role="radio"
            aria-checked={i === at}
            tabIndex={i === at ? 0 : -1}
            aria-label={`Colour ${i + 1}, at ${Number(value(s).toPrecision(4))}`}
            title={`at ${Number(value(s).toPrecision(4))}`}
            className={`absolute top-2 size-3.5 -translate-x-1/2 rounded-full border-2 ${i === at ? "border-primary" : "border-base-content/60"}`}
            style={{ left: `${2 + 96 * s}%`, background: cssColour(c) }}
            onClick={() => setChosen(i)}
          />
        ))}
      </div>
      <div className="flex gap-3 text-xs">
        <button className="link link-hover" disabled={ramp.colours.length >= 8} onClick={add}>
          Add a colour
        </button>
        {ramp.colours.length > 2 && (
          <button className="link link-hover" onClick={() => set(ramp.colours.filter((_, i) => i !== at))}>
            Remove this colour
          </button>
        )}
      </div>
      <ColourField
        label="Colour"
        value={colour}
        reset={[1, 1, 1]}
        tooltip="Scattering colour here; white leaves the medium unchanged."
        onChange={(c) => set(ramp.colours.map((x, i) => (i === at ? [x[0], c] : x)))}
        onGesture={(active) => store.gesture(active)}
      />
      <Num
        label="Value"
        value={value(place)}
        min={Math.min(value(low), value(high))}
        max={Math.max(value(low), value(high))}
        step={step}
        reset={value(at === 0 ? 0 : at === ramp.colours.length - 1 ? 1 : (low + high) / 2)}
        tooltip="Channel value of this colour; colours between are interpolated."
        onChange={(v) => {
          if (low > high) return;
          const share = Number(Math.max(low, Math.min(high, (v - ramp.low) / (ramp.high - ramp.low))).toFixed(4));
          set(ramp.colours.map((x, i) => (i === at ? [share, x[1]] : x)));
        }}
      />
      <Num
        label="Ramp start"
        value={ramp.low}
        min={-1e9}
        max={1e9}
        useful={useful}
        step={step}
        reset={Number(useful[0].toPrecision(4))}
        tooltip="Value of the channel at the beginning of the ramp."
        onChange={(v) => v !== ramp.high && onChange({ ...ramp, low: v })}
      />
      <Num
        label="Ramp end"
        value={ramp.high}
        min={-1e9}
        max={1e9}
        useful={useful}
        step={step}
        reset={Number(useful[1].toPrecision(4))}
        tooltip="Value of the channel at the end of the ramp."
        onChange={(v) => v !== ramp.low && onChange({ ...ramp, high: v })}
      />
    </>
  );
}
