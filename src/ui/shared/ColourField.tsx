/** A linear Rec. 709 colour: a swatch to pick from, and its three numbers. */
import { map3 } from "#core/math/vectors";
import { encode } from "#core/film/finish";
import type { Colour } from "#core/data/material";
import { colourOfHex, hexOf } from "./colour-hex";
import { NumberField } from "./NumberField";

/** CSS colour of a linear colour; parts above 1 are scaled down together. */
export function cssColour(c: readonly number[]): string {
  const most = Math.max(1, ...c);
  return `rgb(${c.map((v) => Math.round(255 * encode(Math.max(0, v / most)))).join(" ")})`;
}

export function ColourField(p: {
  label: string;
  value: Colour;
  max?: number;
  reset: Colour;
  tooltip: string;
  onChange(value: Colour): void;
  onGesture?(active: boolean): void;
}) {
  const max = p.max ?? 1;
  return (
    <fieldset className="space-y-0.5" title={p.tooltip}>
      <div className="grid grid-cols-[8.2rem_1fr] items-center gap-x-2">
        <legend className="contents">
          <span className="truncate text-sm quiet">{p.label}</span>
        </legend>
        <input
          type="color"
          aria-label={`${p.label}, swatch`}
          className="h-6 w-full cursor-pointer border hair bg-transparent p-0"
          value={hexOf(p.value)}
          onFocus={() => p.onGesture?.(true)}
          onBlur={() => p.onGesture?.(false)}
          onChange={(e) => {
            const scale = Math.max(1, ...p.value);
            p.onChange(colourOfHex(e.target.value, scale));
          }}
        />
      </div>
      <div className="grid grid-cols-3 gap-x-2 pl-[5.4rem]">
        {(["red", "green", "blue"] as const).map((band, i) => (
          <BandField
            key={band}
            label={`${p.label}, ${band}`}
            letter={band[0]!.toUpperCase()}
            value={p.value[i]!}
            max={max}
            reset={p.reset[i]!}
            tooltip={p.tooltip}
            onChange={(v) => p.onChange(map3(p.value, (old, k) => (k === i ? v : old)))}
            {...(p.onGesture ? { onGesture: p.onGesture } : {})}
          />
        ))}
      </div>
    </fieldset>
  );
}

function BandField(p: {
  label: string;
  letter: string;
  value: number;
  max: number;
  reset: number;
  tooltip: string;
  onChange(v: number): void;
  onGesture?(a: boolean): void;
}) {
  return (
    <div className="[&_.unit]:w-2.5 [&_input]:pr-3 [&_label]:sr-only [&>div]:block">
      <NumberField
        label={p.label}
        unit={p.letter}
        value={p.value}
        min={0}
        max={p.max}
        useful={[0, Math.max(1, p.value)]}
        step={0.01}
        digits={3}
        room={6}
        reset={p.reset}
        tooltip={p.tooltip}
        onChange={p.onChange}
        {...(p.onGesture ? { onGesture: p.onGesture } : {})}
      />
    </div>
  );
}
