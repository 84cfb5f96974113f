/** The balance of light groups after the render: gains and colours for the air and for surfaces, silent and solo, applied to the lights. */
import { useState } from "react";
import { EVEN, type BalancedSide, type GroupBalance } from "#core/document/balance";
import { formatNumber } from "#core/document/quantities";
import { noisePulled, type LightBalance } from "#core/film/light-balance";
import { applyBalance } from "#core/scene/apply-balance";
import { colourOfHex, hexOf } from "../../shared/colour-hex";
import { useBench, useDocument, useSession } from "../model/context";
import { changeBalance, changeGain, evened, MOST_STOPS } from "../model/edits/balance";
import { Cell, share } from "./lights/Cell";
import { TableSwitch } from "./lights/TableSwitch";

/** Stops that the fader reaches; more are typed. */
const FADER = 4;
/** Noise, times what it was, from which it is told. */
const TOLD = 1.5;

const HEADS = [
  ["Light group", "w-40"],
  ["Both", "w-44"],
  ["Air", "w-44"],
  ["Surfaces", "w-44"],
  ["Light", "w-14 text-right"],
] as const;

export function BalanceTable() {
  const { store, view, session } = useBench();
  const { balance } = useDocument().film;
  const groups = useSession((s) => s.balance);
  const geometry = useSession((s) => s.geometry);
  const [said, setSaid] = useState<string | null>(null);
  const touched = Object.keys(balance).length > 0;
  const pulled = groups && touched ? noisePulled(groups, balance) : 1;

  const apply = (): void => {
    if (!geometry) return;
    const { document, left } = applyBalance(store.getState().document, geometry.materials);
    store.getState().set(() => document);
    setSaid(left.length > 0 ? `Left balanced: ${left.map(({ group, why }) => `${group}, as ${why}`).join("; ")}.` : null);
  };

  return (
    <section
      id="drawing"
      tabIndex={-1}
      aria-label="Light balance"
      className="outline-none flex h-64 shrink-0 flex-col border-t hair bg-base-100 text-sm"
    >
      <div className="flex items-center gap-3 border-b hair px-3 py-1">
        <TableSwitch />
        <button
          className="btn btn-xs btn-outline hair"
          disabled={!touched || !geometry}
          title="Turns the balance into strengths, colours and shares of the lights, and renders them so: the same picture, without the noise that was pulled up. Undo brings the balance back."
          onClick={apply}
        >
          Apply to the lights
        </button>
        <button
          className="btn btn-xs btn-ghost"
          disabled={!touched}
          title="All groups as they were rendered."
          onClick={() => {
            setSaid(null);
            store.getState().set(evened);
          }}
        >
          As rendered
        </button>
        {pulled > TOLD && (
          <span role="status" className="text-xs text-warning" title="As it is estimated from how pixels stand out of their neighbours.">
            Noise about {formatNumber(pulled, 2)} times as strong: more samples, or apply it to the lights.
          </span>
        )}
        <button className="btn btn-xs btn-ghost ml-auto" onClick={() => view.toggleBelow("lights")}>
          Close
        </button>
      </div>
      {said && (
        <p role="status" className="border-b hair px-3 py-1 text-xs quiet">
          {said}
        </p>
      )}
      <div role="table" aria-label="Light groups" className="min-h-0 flex-1 overflow-auto">
        <div role="row" className="sticky top-0 z-10 flex h-6 items-center gap-3 bg-base-100 px-3 text-xs quiet">
          <span role="columnheader" className="w-12 shrink-0">
            <span className="sr-only">Heard, solo</span>
          </span>
          {HEADS.map(([words, width]) => (
            <span key={words} role="columnheader" className={`shrink-0 ${width}`}>
              {words}
            </span>
          ))}
        </div>
        {groups?.map((g) => (
          <GroupRow
            key={g.name}
            group={g}
            own={balance[g.name] ?? EVEN}
            onChange={(change) => store.getState().set(change)}
            onGesture={(a) => store.gesture(a)}
          />
        ))}
        {!groups && (
          <p role="status" className="px-3 py-2 text-xs quiet">
            {session.state.getState().phase === "failed"
              ? "The picture cannot be rendered."
              : "Rendering with every light group kept apart …"}
          </p>
        )}
      </div>
    </section>
  );
}

interface RowProps {
  group: LightBalance;
  own: GroupBalance;
  onChange(change: Parameters<ReturnType<ReturnType<typeof useBench>["store"]["getState"]>["set"]>[0]): void;
  onGesture(active: boolean): void;
}

function GroupRow({ group: g, own, onChange, onGesture }: RowProps) {
  const { name } = g;
  return (
    <div role="row" className={`flex h-7 items-center gap-3 px-3 hover:bg-base-300/30 ${own.muted ? "quiet" : ""}`}>
      <span role="cell" className="flex w-12 shrink-0 items-center gap-1.5">
        <input
          type="checkbox"
          className="toggle toggle-xs toggle-primary"
          aria-label={`${name} is shown`}
          title="Mutes the group in the picture; its lights are rendered all the same."
          checked={!own.muted}
          onChange={() => onChange((d) => changeBalance(d, name, () => ({ muted: !own.muted })))}
        />
        <button
          className={`text-xs ${own.solo ? "text-primary" : "quiet"}`}
          aria-pressed={own.solo}
          aria-label={`Solo the group ${name}`}
          title="Shows it alone, with others that are soloed."
          onClick={() => onChange((d) => changeBalance(d, name, () => ({ solo: !own.solo })))}
        >
          ◉
        </button>
      </span>
      <span role="cell" className="w-40 shrink-0 truncate" title={name}>
        {name}
      </span>
      <span role="cell" className="flex w-44 shrink-0 items-center gap-2">
        <Fader
          label={`${name}, air and surfaces`}
          value={(own.air.stops + own.surfaces.stops) / 2}
          onGesture={onGesture}
          onChange={(stops) => {
            // what they differ by stays
            const by = stops - (own.air.stops + own.surfaces.stops) / 2;
            const moved = (v: number): number => Number(Math.max(-MOST_STOPS, Math.min(MOST_STOPS, v + by)).toFixed(3));
            onChange((d) =>
              changeBalance(d, name, (was) => ({
                air: { ...was.air, stops: moved(own.air.stops) },
                surfaces: { ...was.surfaces, stops: moved(own.surfaces.stops) },
              })),
            );
          }}
        />
      </span>
      {(["air", "surfaces"] as const).map((side) => (
        <span key={side} role="cell" className="flex w-44 shrink-0 items-center gap-2">
          <Fader
            label={`${name}, ${side}`}
            value={own[side].stops}
            onGesture={onGesture}
            onChange={(stops) => onChange((d) => changeGain(d, name, side, { stops }))}
          />
          <Swatch
            label={`Colour of ${name}, ${side}`}
            value={own[side].colour}
            side={side}
            onGesture={onGesture}
            onChange={(colour) => onChange((d) => changeGain(d, name, side, { colour }))}
          />
        </span>
      ))}
      <span
        role="cell"
        className="figures w-14 shrink-0 text-right"
        title={`As rendered: ${share(g.air)} of the air's light, ${share(g.surfaces)} of the surfaces'`}
      >
        {share(g.light)}
      </span>
    </div>
  );
}

/** Stops, to be slid and typed; a double click sets it back. */
function Fader(p: { label: string; value: number; onChange(stops: number): void; onGesture(active: boolean): void }) {
  return (
    <>
      <input
        type="range"
        aria-label={`Fader of ${p.label}`}
        className="range range-xs min-w-0 flex-1 [--range-fill:0]"
        min={-FADER}
        max={FADER}
        step={0.05}
        value={Math.max(-FADER, Math.min(FADER, p.value))}
        title="Stops above or below what was rendered. A double click sets it back."
        onPointerDown={() => p.onGesture(true)}
        onPointerUp={() => p.onGesture(false)}
        onPointerCancel={() => p.onGesture(false)}
        onDoubleClick={() => p.onChange(0)}
        onChange={(e) => p.onChange(Number(e.target.value))}
      />
      <span className="w-9 shrink-0">
        <Cell label={`Stops of ${p.label}`} value={p.value} min={-MOST_STOPS} max={MOST_STOPS} quantity="ev" onChange={p.onChange} />
      </span>
    </>
  );
}

function Swatch(p: {
  label: string;
  value: readonly [number, number, number];
  side: BalancedSide;
  onChange(colour: [number, number, number]): void;
  onGesture(active: boolean): void;
}) {
  return (
    <input
      type="color"
      aria-label={p.label}
      title={`Filter of what the group gives to ${p.side === "air" ? "the air" : "surfaces"}.`}
      className="h-4 w-5 shrink-0 cursor-pointer border hair bg-transparent p-0"
      value={hexOf(p.value)}
      onFocus={() => p.onGesture(true)}
      onBlur={() => p.onGesture(false)}
      onChange={(e) => p.onChange(colourOfHex(e.target.value))}
    />
  );
}
