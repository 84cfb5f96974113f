/** Solve density from pins: pins in the picture, each with the transmittance wanted to it. */
import { useEffect, useMemo, useRef, useState } from "react";
import { contradiction, MET, seenPin, solvable, type Solved } from "#core/air/pins";
import type { Pin } from "#core/document/air";
import { NumberField } from "../../../shared/NumberField";
import { useBench, useDocument, useView } from "../../model/context";
import { Group } from "../Group";
import type { MediumFields } from "../../model/medium-fields";
import { Solver } from "../../model/solve-pins";
import { useLengths } from "../../../shared/units";

const WORDS: Record<Solved, string> = { density: "density", start: "start", level: "level", scale: "scale height" };

export function PinFields({ medium, index }: Pick<MediumFields, "medium" | "index">) {
  const { store, view, session } = useBench();
  const lengths = useLengths();
  const doc = useDocument();
  const { pins } = doc;
  const tool = useView((s) => s.tool);
  const views = useMemo(() => pins.map((pin) => seenPin(doc, pin)), [doc, pins]);
  const [fixed, setFixed] = useState<Solved[]>([]);
  const [met, setMet] = useState<ReadonlyMap<Pin, number>>(new Map());
  /** What the last solution left unmet. */
  const [unmet, setUnmet] = useState<string | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const solver = useMemo(() => new Solver(session, store, setProblem), [session, store]);
  const can = solvable(medium);
  const which = can.filter((s) => !fixed.includes(s));
  /** @param edited whether it follows from an edit that was just made */
  const solve = (next: Pin[], solved: Solved[] = which, edited = false): void => {
    setProblem(null);
    setUnmet(null);
    if (next.length > 0 && solved.length > 0)
      solver.ask({
        index,
        pins: next,
        which: solved,
        of: edited ? store.getState().document : null,
        done: (seen, s) => setUnmet(contradiction(seen, s.met, lengths)),
      });
  };

  // the transmittance now, whatever changed the air
  const asking = useRef(0);
  useEffect(() => {
    const seen = pins.flatMap((pin, i) => (views[i] ? [{ pin, view: views[i] }] : []));
    if (seen.length === 0 || !session.section.ready) return;
    const mine = ++asking.current;
    void session.section
      .asked()
      .then((worker) =>
        worker.surviving(
          doc,
          seen.map((s) => s.view),
        ),
      )
      .then((now) => mine === asking.current && setMet(new Map(seen.map((s, i) => [s.pin, now[i]!]))))
      .catch(() => undefined); // the section says what is wrong
  }, [doc, pins, views, session]);

  const put = (next: Pin[]): void => {
    store.getState().set((d) => ({ ...d, pins: next }));
    solve(next, which, true);
  };
  return (
    <Group
      id="pins"
      about={{ words: pins.length === 0 ? "none" : `${pins.length} ${pins.length === 1 ? "point" : "points"}`, changed: pins.length > 0 }}
    >
      <div className="flex gap-2">
        <button
          className={`btn btn-xs flex-1 ${tool === "pin" ? "btn-primary" : "btn-outline hair"}`}
          aria-pressed={tool === "pin"}
          title="Click points of the picture, then set the transmittance each should have. D"
          onClick={() => view.setState({ tool: tool === "pin" ? "none" : "pin" })}
        >
          Pin points
        </button>
        <button
          className={`btn btn-xs flex-1 ${tool === "limit" ? "btn-primary" : "btn-outline hair"}`}
          aria-pressed={tool === "limit"}
          title="Click a point of the picture where visibility should end (5 % of contrast)."
          onClick={() => view.setState({ tool: tool === "limit" ? "none" : "limit" })}
        >
          Visibility ends at …
        </button>
      </div>
      {pins.map((p, i) => (
        <div key={i} className="flex items-center gap-1" role="group" aria-label={`Pin ${i + 1}`}>
          <div className="min-w-0 flex-1">
            <NumberField
              label={`${i + 1}: ${views[i] ? lengths.rough(views[i].distance) : "behind the lens"}`}
              quantity="share"
              value={p.share}
              min={0.001}
              max={1}
              useful={[0.01, 1]}
              step={0.01}
              reset={0.5}
              onGesture={(a) => store.gesture(a)}
              tooltip="Transmittance from this point to the camera that should be met."
              onChange={(share) => put(pins.map((q, k) => (k === i ? { ...q, share } : q)))}
            />
          </div>
          <span
            className={`figures w-12 text-right text-xs ${met.has(p) && Math.abs(met.get(p)! - p.share) > MET ? "text-warning" : "quiet"}`}
            title="Transmittance now."
          >
            {!views[i] ? "" : met.has(p) ? `${Math.round(100 * met.get(p)!)} %` : "…"}
          </span>
          <button
            className="btn btn-xs btn-ghost px-1 quiet"
            aria-label={`Remove pin ${i + 1}`}
            onClick={() => put(pins.filter((_, k) => k !== i))}
          >
            ×
          </button>
        </div>
      ))}
      {pins.length > 0 && (
        <>
          <div className="flex flex-wrap items-center gap-x-3 text-xs" role="group" aria-label="Solved for">
            <span className="quiet">may change</span>
            {can.map((s) => (
              <label key={s} className="flex cursor-pointer items-center gap-1">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  checked={!fixed.includes(s)}
                  onChange={() => {
                    const next = fixed.includes(s) ? fixed.filter((f) => f !== s) : [...fixed, s];
                    setFixed(next);
                    solve(pins, can.filter((c) => !next.includes(c))); // prettier-ignore
                  }}
                />
                {WORDS[s]}
              </label>
            ))}
          </div>
          <div className="flex gap-2">
            <button className="btn btn-xs btn-outline hair flex-1" disabled={which.length === 0} onClick={() => solve(pins)}>
              Solve {medium.name}
            </button>
            <button className="btn btn-xs btn-ghost quiet" onClick={() => put([])}>
              Remove all
            </button>
          </div>
        </>
      )}
      {unmet && (
        <p role="status" className="text-xs text-warning">
          {unmet}
        </p>
      )}
      {problem && (
        <p role="alert" className="text-xs text-error">
          {problem}
        </p>
      )}
    </Group>
  );
}
