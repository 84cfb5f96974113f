/** All lights as a table under the picture: what each is, gives and costs. Rows are drawn where they are in sight alone. */
import { useContext, useEffect, useMemo, useRef, useState } from "react";
import type { Quantity } from "#core/document/quantities";
import type { Light, SceneDocument } from "#core/document/schema";
import type { LightBalance } from "#core/film/light-balance";
import { temperatureRgb } from "#core/optics/colour";
import { lengthWords, shownUnit } from "#core/document/units";
import { UnitsContext } from "../../shared/units";
import { cssColour } from "../../shared/ColourField";
import { useBench, useDocument, useSession, useView } from "../model/context";
import type { LightId } from "../model/session";
import { Cell, share, TextCell } from "./lights/Cell";
import { TableSwitch } from "./lights/TableSwitch";
import { changeLights, duplicateLights, removeLights, unitText } from "../model/edits/lights";

const ROW = 25;
/** Rows drawn beyond what is in sight. */
const SPARE = 6;

interface Row {
  id: LightId;
  name: string;
  kind: string;
  on: boolean;
  strength: number;
  /** Of what the document keeps; shown as the project reads it. */
  unit: string;
  quantity: Quantity;
  stops: number | null;
  temperature: number | null;
  tint: readonly number[];
  air: number;
  surfaces: number;
  /** Light group that it names; empty for its own. */
  group: string;
  balance: LightBalance | null;
  /** Lights that the balance is of, this one among them. */
  together: number;
}

type Column = "name" | "kind" | "strength" | "stops" | "temperature" | "air" | "surfaces" | "gives" | "costs" | "group";

function rowsOf(doc: SceneDocument, balance: LightBalance[] | null, illuminance: string): Row[] {
  const by = new Map(balance?.map((b) => [b.name, b]));
  const great = (id: "sun" | "moon" | "sky", light: { on: boolean; air: number; surfaces: number; group: string | null; tint?: readonly number[] }, strength: number, unit: string, temperature: number | null): Row => ({
    id, name: id, kind: id, on: light.on, strength, unit, quantity: unit === "lx" ? "illuminance" : "plain", stops: null, temperature, tint: light.tint ?? [1, 1, 1], air: light.air, surfaces: light.surfaces, group: light.group ?? "", balance: by.get(light.group ?? id) ?? null, together: 1,
  }); // prettier-ignore
  const { sun, moon, sky } = doc;
  const rows = [
    great("sun", sun, sun.illuminance, "lx", sun.temperature),
    great(
      "sky",
      sky,
      sky.model === "clear" || sky.model === "image" ? sky.strength : sky.luminance,
      sky.model === "clear" || sky.model === "image" ? "×" : "cd/m²",
      null,
    ),
  ];
  if (moon.on) rows.push(great("moon", moon, moon.illuminance, "lx", moon.temperature));
  const groupOf = (l: Light): string => (by.has(l.group ?? l.name) ? (l.group ?? l.name) : "other lights");
  const together = new Map<string, number>();
  for (const l of doc.lights) together.set(groupOf(l), (together.get(groupOf(l)) ?? 0) + 1);
  doc.lights.forEach((l, i) =>
    rows.push({
      id: i,
      name: l.name,
      kind: l.kind,
      on: l.on,
      strength: l.kind === "profile" ? l.scale : l.intensity,
      // a number of lux at a metre is one of footcandles at a foot
      quantity: "plain",
      unit: l.kind === "profile" ? "× file" : unitText(l.unit, illuminance),
      stops: l.stops,
      temperature: l.temperature,
      tint: l.tint,
      air: l.air,
      surfaces: l.surfaces,
      group: l.group ?? "",
      balance: by.get(groupOf(l)) ?? null,
      together: together.get(groupOf(l))!,
    }),
  );
  return rows;
}

const keyOf = (r: Row, column: Column): string | number =>
  column === "gives" ? (r.balance?.light ?? -1) : column === "costs" ? (r.balance?.rays ?? -1) : (r[column] ?? -1);

const HEADS: [Column, string, string, string][] = [
  ["name", "Name", "w-38", "A click chooses; Shift and Ctrl choose more."],
  ["kind", "Kind", "w-18", "What kind of light it is."],
  ["strength", "Strength", "w-28 text-right", "In the light's own unit."],
  ["stops", "Stops", "w-16 text-right", "Above or below that strength."],
  ["temperature", "Colour", "w-20 text-right", "Temperature of its white."],
  ["air", "Air", "w-14 text-right", "Air contribution."],
  ["surfaces", "Surfaces", "w-16 text-right", "Surface contribution."],
  [
    "gives",
    "Light",
    "w-20 text-right",
    "Share of the light in this frame, measured in the live picture; where several lights are kept together, of all of them.",
  ],
  ["costs", "Rays", "w-14 text-right", "Share of the shadow rays that go to it."],
  ["group", "Group", "w-28", "Lights of one group are kept, and balanced, together; without one, each is its own."],
];

export function LightTable() {
  const { store, view } = useBench();
  const doc = useDocument();
  const balance = useSession((s) => s.balance);
  const units = useContext(UnitsContext);
  const illuminance = lengthWords(units).illuminance.short;
  const { lights: chosen, solo } = useView((s) => s);
  const [sort, setSort] = useState<{ column: Column; down: boolean } | null>(null);
  const [filter, setFilter] = useState("");
  const [top, setTop] = useState(0);
  const [height, setHeight] = useState(180);
  const body = useRef<HTMLDivElement>(null);
  const from = useRef<number | null>(null);

  const rows = useMemo(() => rowsOf(doc, balance, illuminance), [doc, balance, illuminance]);
  const wanted = filter.trim().toLowerCase();
  const shown = useMemo(() => {
    const kept = wanted ? rows.filter((r) => `${r.name} ${r.kind}`.toLowerCase().includes(wanted)) : rows;
    if (!sort) return kept;
    const sign = sort.down ? -1 : 1;
    return [...kept].sort((a, b) => {
      const [x, y] = [keyOf(a, sort.column), keyOf(b, sort.column)];
      return sign * (typeof x === "string" ? x.localeCompare(String(y)) : x - Number(y));
    });
  }, [rows, wanted, sort]);

  useEffect(() => {
    const element = body.current!;
    const observer = new ResizeObserver(() => setHeight(element.clientHeight));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  const chosenLocals = chosen.filter((c): c is number => typeof c === "number");
  const first = Math.max(0, Math.floor(top / ROW) - SPARE);
  const last = Math.min(shown.length, Math.ceil((top + height) / ROW) + SPARE);

  const choose = (at: number, e: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }): void => {
    const { id } = shown[at]!;
    if (e.shiftKey && from.current !== null) {
      const [a, b] = [Math.min(from.current, at), Math.max(from.current, at)];
      view.setState({ lights: shown.slice(a, b + 1).map((r) => r.id) });
      return;
    }
    from.current = at;
    if (e.ctrlKey || e.metaKey) view.setState({ lights: chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id] });
    else view.setState({ lights: [id], open: "lights" });
  };
  /** Changes a row, and with it all others that are chosen when it is one of them. */
  const change = (id: LightId, part: (l: Light) => Partial<Light>, great: object): void =>
    store.getState().set((d) => {
      const ids = chosen.includes(id) && chosen.length > 1 ? chosen : [id];
      const next = changeLights(
        d,
        ids.filter((c): c is number => typeof c === "number"),
        part,
      );
      return ids.reduce<SceneDocument>((doc, c) => (typeof c === "number" ? doc : { ...doc, [c]: { ...doc[c], ...great } }), next);
    });

  return (
    <section
      id="drawing"
      tabIndex={-1}
      aria-label="Light table"
      className="outline-none flex h-64 shrink-0 flex-col border-t hair bg-base-100 text-sm"
    >
      <div className="flex items-center gap-3 border-b hair px-3 py-1">
        <TableSwitch />
        <input
          type="search"
          aria-label="Filter the lights"
          placeholder="Filter by name or kind"
          className="input input-xs w-48"
          value={filter}
          onChange={(e) => setFilter(e.target.value)}
        />
        <span className="figures text-xs quiet">
          {shown.length === rows.length ? `${rows.length} lights` : `${shown.length} of ${rows.length}`}
          {chosen.length > 1 ? `, ${chosen.length} chosen` : ""}
        </span>
        {chosenLocals.length > 0 && (
          <span className="flex items-center gap-1">
            {(
              [
                ["−1", -1],
                ["−⅓", -1 / 3],
                ["+⅓", 1 / 3],
                ["+1", 1],
              ] as const
            ).map(([words, by]) => (
              <button
                key={words}
                className="btn btn-xs btn-ghost figures px-1.5"
                title={`${words} stop for all that are chosen`}
                onClick={() =>
                  store
                    .getState()
                    .set((d) =>
                      changeLights(d, chosenLocals, (l) => ({ stops: Math.max(-40, Math.min(40, Number((l.stops + by).toFixed(4)))) })),
                    )
                }
              >
                {words}
              </button>
            ))}
            <button
              className="btn btn-xs btn-ghost px-1.5"
              onClick={() => {
                const { doc: next, copies } = duplicateLights(store.getState().document, chosenLocals);
                store.getState().set(() => next);
                view.setState({ lights: copies });
              }}
            >
              Duplicate
            </button>
            <button
              className="btn btn-xs btn-ghost px-1.5"
              title="Undo brings them back."
              onClick={() => {
                view.setState({ lights: [], solo: [], grip: null });
                store.getState().set((d) => removeLights(d, chosenLocals));
              }}
            >
              Remove
            </button>
          </span>
        )}
        {doc.lights.length > 58 && <span className="text-xs quiet">beyond 60 lights the rest are measured together</span>}
        <button className="btn btn-xs btn-ghost ml-auto" onClick={() => view.toggleBelow("lights")}>
          Close
        </button>
      </div>
      <div
        ref={body}
        role="table"
        aria-label="Lights"
        aria-rowcount={shown.length + 1}
        className="relative min-h-0 flex-1 overflow-auto"
        onScroll={(e) => setTop(e.currentTarget.scrollTop)}
      >
        <div role="row" className="sticky top-0 z-10 flex items-center gap-2 bg-base-100 px-3 text-xs quiet" style={{ height: ROW }}>
          <span role="columnheader" className="w-12 shrink-0">
            <span className="sr-only">On, solo</span>
          </span>
          {HEADS.map(([column, words, width, tooltip]) => (
            <span
              key={column}
              role="columnheader"
              aria-sort={sort?.column === column ? (sort.down ? "descending" : "ascending") : "none"}
              className={`shrink-0 ${width}`}
              title={tooltip}
            >
              <button
                className={sort?.column === column ? "text-base-content" : "hover:text-base-content"}
                onClick={() =>
                  setSort(
                    sort?.column !== column
                      ? { column, down: column !== "name" && column !== "kind" }
                      : sort.down === (column !== "name" && column !== "kind")
                        ? { column, down: !sort.down }
                        : null,
                  )
                }
              >
                {words}
                {sort?.column === column ? (sort.down ? " ↓" : " ↑") : ""}
              </button>
            </span>
          ))}
        </div>
        <div style={{ height: shown.length * ROW }} className="relative">
          {shown.slice(first, last).map((r, k) => {
            const at = first + k;
            const local = typeof r.id === "number";
            const picked = chosen.includes(r.id);
            return (
              <div
                key={r.id}
                role="row"
                aria-rowindex={at + 2}
                aria-selected={picked}
                className={`absolute right-0 left-0 flex items-center gap-2 px-3 ${picked ? "bg-base-300/60" : "hover:bg-base-300/30"} ${r.on ? "" : "quiet"}`}
                style={{ top: at * ROW, height: ROW }}
              >
                <span role="cell" className="flex w-12 shrink-0 gap-1.5">
                  <input
                    type="checkbox"
                    className="toggle toggle-xs toggle-primary"
                    aria-label={`${r.name} shines`}
                    title="Mutes it, or all that are chosen."
                    checked={r.on}
                    onChange={() => change(r.id, () => ({ on: !r.on }), { on: !r.on })}
                  />
                  <button
                    className={`text-xs ${solo.includes(r.id) ? "text-primary" : "quiet"}`}
                    aria-pressed={solo.includes(r.id)}
                    aria-label={`Solo ${r.name}`}
                    title="Shows it alone."
                    onClick={() => view.setState({ solo: solo.includes(r.id) ? solo.filter((s) => s !== r.id) : [...solo, r.id] })}
                  >
                    ◉
                  </button>
                </span>
                <span role="cell" className="flex w-38 shrink-0">
                  <button
                    className="min-w-0 flex-1 truncate text-left"
                    title={`${r.name}. A click chooses it; Shift and Ctrl choose more.`}
                    onClick={(e) => choose(at, e)}
                  >
                    {r.name}
                  </button>
                </span>
                <span role="cell" className="w-18 shrink-0 truncate quiet">
                  {r.kind}
                </span>
                <span role="cell" className="flex w-28 shrink-0 items-baseline justify-end gap-1">
                  <Cell
                    label={`Strength of ${r.name}`}
                    value={r.strength}
                    unit={r.unit}
                    quantity={r.quantity}
                    min={0}
                    max={1e9}
                    onChange={(v) =>
                      change(
                        r.id,
                        (l) => (l.kind === "profile" ? { scale: Math.min(1e6, v) } : { intensity: v }),
                        r.id === "sky"
                          ? doc.sky.model === "clear" || doc.sky.model === "image"
                            ? { strength: Math.min(1e6, v) }
                            : { luminance: Math.min(1e7, v) }
                          : { illuminance: Math.min(r.id === "moon" ? 1e5 : 1e7, v) },
                      )
                    }
                  />
                  <span className="w-11 shrink-0 text-left text-xs quiet">{shownUnit(r.unit, r.quantity, units).unit}</span>
                </span>
                <span role="cell" className="w-16 shrink-0 text-right">
                  {local && (
                    <Cell
                      label={`Stops of ${r.name}`}
                      value={r.stops!}
                      min={-40}
                      max={40}
                      quantity="ev"
                      onChange={(stops) => change(r.id, () => ({ stops }), {})}
                    />
                  )}
                </span>
                <span role="cell" className="flex w-20 shrink-0 items-center justify-end gap-1.5">
                  {r.temperature !== null && (
                    <>
                      <span
                        aria-hidden
                        className="size-3 shrink-0"
                        style={{ background: cssColour(temperatureRgb(r.temperature).map((c, i) => c * r.tint[i]!)) }}
                      />
                      <Cell
                        label={`Temperature of ${r.name}`}
                        value={r.temperature}
                        min={1000}
                        max={40000}
                        quantity="temperature"
                        onChange={(temperature) => change(r.id, () => ({ temperature }), r.id === "sky" ? {} : { temperature })}
                      />
                    </>
                  )}
                </span>
                <span role="cell" className="w-14 shrink-0 text-right">
                  <Cell
                    label={`Air contribution of ${r.name}`}
                    value={r.air}
                    min={0}
                    max={1}
                    quantity="share"
                    onChange={(air) => change(r.id, () => ({ air }), { air })}
                  />
                </span>
                <span role="cell" className="w-16 shrink-0 text-right">
                  <Cell
                    label={`Surface contribution of ${r.name}`}
                    value={r.surfaces}
                    min={0}
                    max={1}
                    quantity="share"
                    onChange={(surfaces) => change(r.id, () => ({ surfaces }), { surfaces })}
                  />
                </span>
                <span
                  role="cell"
                  className="figures w-20 shrink-0 text-right"
                  title={
                    r.balance
                      ? `${r.together > 1 ? `${r.together} lights that are kept together on the film give ` : ""}${share(r.balance.air)} of the air's light, ${share(r.balance.surfaces)} of the surfaces'`
                      : "Not measured yet."
                  }
                >
                  {r.on && r.balance ? share(r.balance.light) : "–"}
                  {r.on && r.balance && r.together > 1 && <span className="quiet"> of {r.together}</span>}
                </span>
                <span role="cell" className="figures w-14 shrink-0 text-right">
                  {r.on && r.balance ? share(r.balance.rays) : "–"}
                </span>
                <span role="cell" className="w-28 shrink-0">
                  <TextCell
                    label={`Light group of ${r.name}`}
                    value={r.group}
                    placeholder="its own"
                    onChange={(text) => change(r.id, () => ({ group: text || null }), { group: text || null })}
                  />
                </span>
              </div>
            );
          })}
        </div>
      </div>
    </section>
  );
}
