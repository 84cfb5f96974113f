/** A wedge: one setting or two over several values, a small picture of each; a click takes its values over. */
import { useMemo, useState } from "react";
import { useStore } from "zustand";
import { MOST_VALUES, type Wedge, type WedgeSpec } from "#api/contract";
import { numberAt, numbersOf, numberText, type Setting } from "#core/document/numbers";
import { durationText, formatNumber } from "#core/document/quantities";
import type { SceneDocument } from "#core/document/schema";
import { useLengths } from "../../shared/units";
import { useBench, useDocument } from "../model/context";
import { cellCount, missingCells, valuesAt, wedgeValues, type Spacing } from "../model/wedge-values";
import { percent } from "../percent";
import { today } from "../model/contact-sheet";
import { saveSheet } from "../model/sheet-file";

/** A range as it is typed. */
interface Range {
  setting: string;
  from: string;
  to: string;
  count: string;
  by: Spacing;
}

/** Most settings that are offered at a time: sets of many lights have thousands of numbers. */
const OFFERED = 300;

/** A range about the present value: by factors where that can be, else about it. */
function rangeAbout(id: string, value: number): Range {
  const [from, to] = value === 0 ? [0, 1] : [value / 2, value * 2];
  return {
    setting: id,
    from: String(Number(from.toPrecision(4))),
    to: String(Number(to.toPrecision(4))),
    count: "5",
    by: value === 0 ? "linear" : "factors",
  };
}

const words = ({ of, setting }: Pick<Setting, "of" | "setting">): string => `${of}: ${setting}`;

export default function WedgeTable() {
  const { wedges, view } = useBench();
  const { wedges: all, open, running, error, removed } = useStore(wedges.state);
  const [making, setMaking] = useState(all.length === 0);
  const wedge = all.find((w) => w.id === open);
  return (
    <section
      id="drawing"
      tabIndex={-1}
      aria-label="Wedge"
      className="flex h-[44%] min-h-0 shrink-0 flex-col border-t hair bg-base-100 text-sm outline-none"
    >
      <header className="flex items-center gap-3 border-b hair px-3 py-1.5">
        <h2 className="font-semibold">Wedge</h2>
        {all.length > 0 && (
          <select
            aria-label="Which wedge"
            className="select select-xs w-auto max-w-60"
            value={making ? "" : (open ?? "")}
            onChange={(e) => {
              setMaking(e.target.value === "");
              if (e.target.value !== "") wedges.look(e.target.value);
            }}
          >
            <option value="">new …</option>
            {all.map((w, i) => (
              <option key={w.id} value={w.id}>
                {i + 1}: {cellCount(w.spec)} pictures
              </option>
            ))}
          </select>
        )}
        {running && (
          <span role="status" className="figures text-xs quiet">
            {`picture ${running.at + 1}, ${Math.round(100 * running.share)} %`}
            {running.secondsLeft !== null && `, about ${durationText(running.secondsLeft)} left`}{" "}
            <button className="link" onClick={() => void wedges.cancel()}>
              Cancel the wedge
            </button>
          </span>
        )}
        {removed && (
          <span role="status" className="text-xs">
            Wedge removed.{" "}
            <button className="link" onClick={() => void wedges.restore()}>
              Bring it back
            </button>
          </span>
        )}
        <span className="grow" />
        {wedge && !making && <Actions wedge={wedge} busy={running !== null} />}
        <button className="font-semibold" onClick={() => view.toggleBelow("wedges")}>
          Close
        </button>
      </header>
      {error && (
        <p role="alert" className="border-l-2 border-error px-3 py-1 text-xs">
          {error}
        </p>
      )}
      {making || !wedge ? <Making busy={running !== null} onMade={() => setMaking(false)} /> : <Pictures wedge={wedge} />}
    </section>
  );
}

function Actions({ wedge, busy }: { wedge: Wedge; busy: boolean }) {
  const { wedges } = useBench();
  const missing = missingCells(wedge).length;
  const doc = useDocument();
  const lengths = useLengths();
  const { spec, cells } = wedge;
  const sheet = async (kind: "png" | "pdf"): Promise<void> => {
    const names = [spec.first, spec.second].flatMap((a) => (a ? [called(doc, a.setting)] : []));
    const heading = `${doc.title}: ${names.join(", ")}, ${today()}`;
    try {
      await saveSheet(
        kind,
        { title: `${doc.title} wedge`, heading, count: cells.length, columns: Math.min(spec.first.values.length, 6) },
        (i) => {
          const { at, picture, seconds, noise } = cells[i]!;
          const [one, other] = valuesAt(spec, at);
          const values =
            numberText(one, spec.first.setting, lengths) +
            (spec.second && other !== null ? `, ${numberText(other, spec.second.setting, lengths)}` : "");
          return Promise.resolve({ hash: picture, lines: [values, `${formatNumber(seconds, 3)} s, noise ${percent(noise)}`] });
        },
      );
    } catch (error) {
      wedges.state.setState({ error: `The sheet was not made: ${(error as Error).message}` });
    }
  };
  return (
    <>
      {wedge.ended && missing > 0 && (
        <button className="btn btn-xs btn-outline hair" disabled={busy} onClick={() => void wedges.goOn(wedge.id)}>
          Go on, {missing} left
        </button>
      )}
      {wedge.cells.length > 0 && (
        <span role="group" aria-label="Sheet of the wedge" className="flex gap-2 text-xs">
          <span className="quiet">Sheet</span>
          {(["png", "pdf"] as const).map((kind) => (
            <button
              key={kind}
              className="link link-hover"
              title="All pictures with their values, to hand on."
              onClick={() => void sheet(kind)}
            >
              {kind.toUpperCase()}
            </button>
          ))}
        </span>
      )}
      <button className="link link-hover text-xs quiet" onClick={() => void wedges.remove(wedge.id)}>
        Remove the wedge
      </button>
    </>
  );
}

/** What a wedge is to be of. */
function Making({ busy, onMade }: { busy: boolean; onMade(): void }) {
  const { wedges } = useBench();
  const doc = useDocument();
  const settings = useMemo(() => numbersOf(doc), [doc]);
  const density = settings.find((s) => s.setting === "extinction") ?? settings[0]!;
  const [first, setFirst] = useState<Range>(() => rangeAbout(density.id, density.value));
  const [second, setSecond] = useState<Range | null>(null);
  const [samples, setSamples] = useState("16");
  const [width, setWidth] = useState("240");
  const [part, setPart] = useState(doc.film.region !== null);
  const [problem, setProblem] = useState<string | null>(null);
  const begin = async (): Promise<void> => {
    setProblem(null);
    try {
      const axis = (r: Range): WedgeSpec["first"] => ({
        setting: r.setting,
        values: wedgeValues(Number(r.from), Number(r.to), Number(r.count), r.by),
      });
      const whole = (text: string, least: number, most: number, what: string): number => {
        const v = Number(text);
        if (!Number.isInteger(v) || v < least || v > most) throw new Error(`${what}: a whole number from ${least} to ${most}`);
        return v;
      };
      const made = wedges.make({
        first: axis(first),
        second: second && axis(second),
        samples: whole(samples, 1, 4096, "samples"),
        width: whole(width, 16, 1280, "pixels across"),
        part: part ? doc.film.region : null,
      });
      // it is seen as soon as it has begun, and fails here where it cannot
      const off = wedges.state.subscribe((s) => s.running && (off(), onMade()));
      await made.finally(off);
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <div className="min-h-0 space-y-2 overflow-y-auto p-3">
      <RangeFields label="Setting" range={first} settings={settings} onChange={setFirst} />
      {second ? (
        <RangeFields label="Second setting" range={second} settings={settings} onChange={setSecond} onRemove={() => setSecond(null)} />
      ) : (
        <button
          className="btn btn-xs btn-outline hair"
          title="A second setting makes a table: each value of the one with each of the other."
          onClick={() => {
            const other =
              settings.find((s) => s.setting === "anisotropy g" && s.id !== first.setting) ?? settings.find((s) => s.id !== first.setting)!;
            setSecond(rangeAbout(other.id, other.value));
          }}
        >
          Vary a second setting
        </button>
      )}
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 text-xs">
        <Field label="Samples each" value={samples} onChange={setSamples} title="Samples a pixel of every picture." />
        <Field label="Pixels across" value={width} onChange={setWidth} title="How wide every picture is." />
        <label className="flex items-center gap-1.5" title="Renders the region that is drawn (R) alone, as fine as the pictures are wide.">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={part && doc.film.region !== null}
            disabled={doc.film.region === null}
            onChange={(e) => setPart(e.target.checked)}
          />
          Region alone
        </label>
        <button
          className="btn btn-xs btn-primary"
          disabled={busy}
          title="Renders the pictures beside the live one; the page may be closed meanwhile, and goes on with them when it is opened again."
          onClick={() => void begin()}
        >
          Make the wedge
        </button>
      </div>
      {problem && (
        <p role="alert" className="border-l-2 border-error px-2 text-xs">
          {problem}
        </p>
      )}
      <p className="max-w-2xl text-xs quiet">
        Numbers are metric, as the project keeps them. By factors suits densities, lengths and strengths: each value is as many times the
        one before.
      </p>
    </div>
  );
}

function Field(p: { label: string; value: string; title?: string; onChange(v: string): void }) {
  return (
    <label className="flex items-center gap-1.5" title={p.title}>
      <span className="quiet">{p.label}</span>
      <input
        className="input input-xs hair figures w-18 bg-transparent text-right"
        aria-label={p.label}
        inputMode="decimal"
        value={p.value}
        onChange={(e) => p.onChange(e.target.value)}
      />
    </label>
  );
}

function RangeFields(p: { label: string; range: Range; settings: readonly Setting[]; onChange(r: Range): void; onRemove?(): void }) {
  const [text, setText] = useState("");
  const { range } = p;
  const asked = text.toLocaleLowerCase().split(/\s+/).filter(Boolean);
  const found = p.settings.filter((s) => s.id === range.setting || asked.every((w) => words(s).toLocaleLowerCase().includes(w)));
  const offered = found.slice(0, OFFERED);
  if (!offered.some((s) => s.id === range.setting)) offered.unshift(...p.settings.filter((s) => s.id === range.setting));
  const groups = [...new Set(offered.map((s) => s.of))];
  return (
    <div role="group" aria-label={p.label} className="flex flex-wrap items-center gap-x-3 gap-y-1 text-xs">
      <input
        type="search"
        aria-label={`${p.label}: find`}
        placeholder="find a number"
        className="input input-xs hair w-28 bg-transparent"
        value={text}
        onChange={(e) => setText(e.target.value)}
      />
      <select
        aria-label={p.label}
        className="select select-xs w-56"
        value={range.setting}
        onChange={(e) => {
          const next = p.settings.find((s) => s.id === e.target.value)!;
          p.onChange({ ...rangeAbout(next.id, next.value), count: range.count });
        }}
      >
        {groups.map((of) => (
          <optgroup key={of} label={of}>
            {offered
              .filter((s) => s.of === of)
              .map((s) => (
                <option key={s.id} value={s.id}>
                  {words(s)} ({formatNumber(s.value, 4)})
                </option>
              ))}
          </optgroup>
        ))}
      </select>
      <Field label="from" value={range.from} onChange={(from) => p.onChange({ ...range, from })} />
      <Field label="to" value={range.to} onChange={(to) => p.onChange({ ...range, to })} />
      <Field label="values" title={`2 to ${MOST_VALUES}`} value={range.count} onChange={(count) => p.onChange({ ...range, count })} />
      <select
        aria-label={`${p.label}: steps`}
        className="select select-xs w-auto"
        value={range.by}
        onChange={(e) => p.onChange({ ...range, by: e.target.value as Spacing })}
      >
        <option value="factors">by factors</option>
        <option value="linear">even steps</option>
      </select>
      {p.onRemove && (
        <button className="link link-hover quiet" onClick={p.onRemove}>
          Leave it out
        </button>
      )}
    </div>
  );
}

/** What a setting is called, by its path. */
function called(doc: SceneDocument, id: string): string {
  const known = numbersOf(doc).find((s) => s.id === id);
  return known ? words(known) : (JSON.parse(id) as string[]).join(" ");
}

function Pictures({ wedge }: { wedge: Wedge }) {
  const { wedges } = useBench();
  const doc = useDocument();
  const lengths = useLengths();
  const [problem, setProblem] = useState<string | null>(null);
  const { spec, cells } = wedge;
  const names = useMemo(() => [spec.first, spec.second].map((a) => a && called(doc, a.setting)), [doc, spec]);
  const text = (v: number, axis: WedgeSpec["first"]): string => numberText(v, axis.setting, lengths);
  const present = [spec.first, spec.second].map((a) => a && numberAt(doc, a.setting));
  const running = useStore(wedges.state, (s) => (s.running?.id === wedge.id ? s.running : null));
  return (
    <div className="min-h-0 overflow-auto p-3">
      <p className="mb-2 text-xs">
        <span className="font-semibold">{names[0]}</span>
        {names[1] && (
          <>
            {" "}
            across, <span className="font-semibold">{names[1]}</span> down
          </>
        )}
        <span className="quiet">; {spec.samples} samples. A click gives the project the values of a picture.</span>
      </p>
      {problem && (
        <p role="alert" className="mb-2 border-l-2 border-error px-2 text-xs">
          {problem}
        </p>
      )}
      <ul className="grid gap-2" style={{ gridTemplateColumns: `repeat(${spec.first.values.length}, minmax(7.5rem, 15rem))` }}>
        {Array.from({ length: cellCount(spec) }, (_, at) => {
          const cell = cells.find((c) => c.at === at);
          const [one, other] = valuesAt(spec, at);
          const said = text(one, spec.first) + (spec.second && other !== null ? `, ${text(other, spec.second)}` : "");
          const here = present[0] === one && (other === null || present[1] === other);
          return (
            <li key={at} data-cell={at}>
              <button
                className={`block w-full border text-left text-xs ${here ? "border-primary" : "hair"}`}
                aria-label={`Take over ${said}`}
                aria-pressed={here}
                disabled={!cell}
                onClick={() => {
                  setProblem(null);
                  try {
                    wedges.pick(wedge.id, at);
                  } catch (error) {
                    setProblem((error as Error).message);
                  }
                }}
              >
                {cell ? (
                  <img src={`/api/assets/${cell.picture}`} alt="" className="w-full" />
                ) : (
                  <span className="flex aspect-video items-center justify-center bg-base-200 quiet">
                    {running?.at === at ? `${Math.round(100 * running.share)} %` : "waits"}
                  </span>
                )}
                <span className="figures block px-1.5 pt-1">{said}</span>
                <span className="figures block px-1.5 pb-1 quiet">
                  {cell ? `${formatNumber(cell.seconds, 3)} s, noise ${percent(cell.noise)}` : " "}
                </span>
              </button>
            </li>
          );
        })}
      </ul>
    </div>
  );
}
