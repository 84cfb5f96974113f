/** What probes read: every pass under the pointer and where probes are set, with what the back has otherwise. */
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useStore } from "zustand";
import { formatNumber } from "#core/document/quantities";
import type { SceneDocument } from "#core/document/schema";
import { PASS_NAMES, PASSES, type PassName } from "#core/film/passes";
import { readingAt, type Reading } from "#core/film/reading";
import { luminance } from "#core/optics/colour";
import { meshKey } from "#core/scene/keys";
import { Latest } from "../../shared/latest";
import { useLengths } from "../../shared/units";
import { useBench, useDocument, useSession, useView } from "../model/context";
import type { Looked } from "../model/film-readings";
import { useShownFilm } from "../model/use-shown-film";
import { MAX_PROBES } from "../model/view";

interface Column {
  /** 1, 2 … of those that are set; 0 for the pointer. */
  number: number;
  reading: Reading | null;
  before: Reading | null;
  seen: { object: string; material: string } | null;
}

const read = (of: Looked | null, { x, y }: { x: number; y: number }): Reading | null => of && readingAt(of.film, x, y, of.look);

/** What of the set is seen at places, by the document that is in front; nothing where that is of another set than the live one. */
function useSeen(doc: SceneDocument, places: readonly { x: number; y: number }[]): Column["seen"][] {
  const { session } = useBench();
  const [seen, setSeen] = useState<Column["seen"][]>([]);
  const asked = useMemo(
    () =>
      new Latest<{ doc: SceneDocument; places: readonly { x: number; y: number }[] }>(async ({ doc: of, places: at }) => {
        try {
          const alike = of === session.seen() || meshKey(of) === meshKey(session.seen());
          setSeen(alike ? await (await session.section.asked()).seen(of, [...at]) : []);
        } catch {
          // where a set cannot be built there is nothing to name
          setSeen([]);
        }
      }),
    [session],
  );
  useEffect(() => () => asked.clear(), [asked]);
  const { objects, camera, film, materials } = doc;
  // what else changes of a document moves nothing: it is asked again for its scene alone
  const latest = useRef(doc);
  latest.current = doc;
  const ready = useSession((s) => s.geometry);
  useEffect(() => {
    if (ready && places.length > 0) asked.ask({ doc: latest.current, places });
  }, [asked, ready, places, objects, camera, film.size, materials]);
  return seen;
}

const bright = (v: readonly number[]): number => luminance(v[0]!, v[1]!, v[2]!);

export function ProbeTable() {
  const { view, proofs } = useBench();
  const { probes, front, back } = useView((s) => s);
  const pointer = useStore(view.pointer, (p) => p.at);
  const live = useDocument();
  const documents = useStore(proofs.state, (s) => s.documents);
  const [problem, setProblem] = useState<string | null>(null);
  const failed = useCallback((message: string) => setProblem(message), []);
  const shown = useShownFilm(front, failed);
  const behind = useShownFilm(back ?? front, failed);
  const doc = front === "live" ? live : (documents[front] ?? live);
  const places = useMemo(() => (pointer ? [...probes, pointer] : probes), [probes, pointer]);
  const seen = useSeen(doc, places);
  const columns: Column[] = places.map((place, i) => ({
    number: i < probes.length ? i + 1 : 0,
    reading: read(shown, place),
    before: back !== null ? read(behind, place) : null,
    seen: seen[i] ?? null,
  }));
  const lights = shown?.film.lights ?? [];

  return (
    <section
      id="drawing"
      tabIndex={-1}
      aria-label="Probes"
      className="outline-none flex h-64 shrink-0 flex-col border-t hair bg-base-100 text-sm"
    >
      <div className="flex items-center gap-3 border-b hair px-3 py-1">
        <h2 className="font-semibold">Probes</h2>
        <span className="text-xs quiet">
          {probes.length === 0 ? "Click into the picture: values stay here while you edit." : `${probes.length} of ${MAX_PROBES}`}
          {back !== null && ", below each what the back has otherwise"}
        </span>
        {problem && (
          <span role="alert" className="text-xs text-error">
            {problem}
          </span>
        )}
        {probes.length > 0 && (
          <button className="btn btn-xs btn-ghost" onClick={() => view.setState({ probes: [] })}>
            Take all away
          </button>
        )}
        <button
          className="btn btn-xs btn-ghost ml-auto"
          onClick={() => {
            view.toggleBelow("probes");
            view.setState({ tool: "none" });
          }}
        >
          Close
        </button>
      </div>
      <div className="min-h-0 flex-1 overflow-auto" tabIndex={0} role="group" aria-label="Values">
        <table className="figures text-xs">
          <thead className="sticky top-0 bg-base-100">
            <tr>
              <th scope="col" className="w-52 px-3 py-1 text-left font-normal quiet">
                Pass
              </th>
              {columns.map((c) => (
                <th key={c.number} scope="col" className="min-w-24 px-2 py-1 text-right font-normal">
                  {c.number === 0 ? (
                    <span className="quiet">pointer</span>
                  ) : (
                    <button
                      className="text-primary hover:line-through"
                      title="Takes this probe away."
                      aria-label={`Take probe ${c.number} away`}
                      onClick={() => view.setState({ probes: probes.filter((_, i) => i !== c.number - 1) })}
                    >
                      {c.number}
                    </button>
                  )}
                </th>
              ))}
              {columns.length === 0 && <th className="font-normal quiet">point at the picture</th>}
            </tr>
          </thead>
          <tbody>
            <Row words="seen there" columns={columns} value={(c) => (c.seen ? `${c.seen.object}, ${c.seen.material}` : "–")} />
            <Row
              words="above middle grey"
              unit="stops"
              columns={columns}
              value={({ reading }) => signed(reading?.stops ?? null)}
              change={({ reading, before }) => (reading?.stops != null && before?.stops != null ? before.stops - reading.stops : null)}
            />
            <Row
              words="luminance"
              unit="cd/m²"
              columns={columns}
              value={({ reading }) => (reading ? formatNumber(reading.luminance) : "–")}
            />
            {PASS_NAMES.map((pass) => (
              <PassRow key={pass} pass={pass} columns={columns} />
            ))}
            {lights.map((name, i) => (
              <Row
                key={name}
                words={`${name}, air and surfaces`}
                unit="cd/m²"
                columns={columns}
                value={({ reading }) => {
                  const of = reading?.lights[i];
                  return of ? `${formatNumber(of.air, 3)}  ${formatNumber(of.surfaces, 3)}` : "–";
                }}
              />
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}

const signed = (v: number | null): string => (v === null ? "–" : `${v < 0 ? "−" : "+"}${formatNumber(Math.abs(v), 3)}`);

function PassRow({ pass, columns }: { pass: PassName; columns: readonly Column[] }) {
  const lengths = useLengths();
  const { words, unit, display } = PASSES[pass];
  const scale = unit === "m" ? 1 / lengths.size : unit === "share" ? 100 : 1;
  const numbers = (v: readonly number[]): string =>
    v.map((n) => (n === Infinity ? "∞" : Number.isNaN(n) ? "–" : formatNumber(n * scale, 3))).join("  ");
  return (
    <Row
      words={words}
      unit={unit === "m" ? lengths.unit : unit === "share" ? "%" : unit}
      columns={columns}
      value={({ reading }) => (reading ? numbers(reading.passes[pass]) : "–")}
      {...(display === "light"
        ? {
            change: ({ reading, before }: Column) => {
              const [a, b] = [reading && bright(reading.passes[pass]), before && bright(before.passes[pass])];
              return a && b ? Math.log2(b / a) : null;
            },
          }
        : {})}
    />
  );
}

function Row(p: {
  words: string;
  unit?: string;
  columns: readonly Column[];
  value(c: Column): string;
  /** Stops by which the back is brighter. */
  change?(c: Column): number | null;
}) {
  return (
    <tr className="border-t border-base-content/5 hover:bg-base-300/30">
      <th scope="row" className="px-3 py-0.5 text-left font-normal whitespace-nowrap">
        {p.words} <span className="quiet">{p.unit}</span>
      </th>
      {p.columns.map((c) => {
        const change = p.change?.(c) ?? null;
        return (
          <td key={c.number} className="px-2 py-0.5 text-right whitespace-pre">
            {p.value(c)}
            {change !== null && <div className="quiet">{signed(change)} stops</div>}
          </td>
        );
      })}
    </tr>
  );
}
