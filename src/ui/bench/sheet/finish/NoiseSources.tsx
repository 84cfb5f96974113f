/** Where the frame's noise comes from, measured by small renders, with remedies that were measured too. */
import { useState } from "react";
import { formatNumber } from "#core/document/quantities";
import { findNoise, type NoiseReport } from "#engine/noise-sources";
import { useBench } from "../../model/context";

export function NoiseSources() {
  const { session, store } = useBench();
  const [busy, setBusy] = useState<{ done: number; all: number } | null>(null);
  const [report, setReport] = useState<NoiseReport | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const run = async (): Promise<void> => {
    setProblem(null);
    setReport(null);
    setBusy({ done: 0, all: 1 });
    try {
      setReport(await session.withExclusiveEngine((engine, doc) => findNoise(engine, doc, (done, all) => setBusy({ done, all }))));
    } catch (error) {
      setProblem(`Not measured: ${(error as Error).message}.`);
    } finally {
      setBusy(null);
    }
  };
  return (
    <div className="space-y-1 pt-1">
      <button
        className="btn btn-xs btn-outline hair w-full"
        disabled={busy !== null}
        title="Small renders of this frame say which light, on which side and material, the noise comes from, and try what may help. The picture begins anew after them."
        onClick={() => void run()}
      >
        Where the noise comes from
      </button>
      {busy && (
        <p role="status" className="flex items-center gap-2 text-xs quiet">
          <progress className="progress progress-primary h-1 flex-1" value={busy.done} max={busy.all} />
          {busy.done} of {busy.all}
        </p>
      )}
      {problem && (
        <p role="alert" className="text-xs text-error">
          {problem}
        </p>
      )}
      {report && (
        <div aria-label="Noise by source" role="group" className="space-y-1 text-xs">
          <ul>
            {report.sources.map((s) => (
              <li key={`${s.light} ${s.side}`} className="flex gap-2">
                <span className="figures w-10 text-right">{formatNumber(100 * s.share, 2)} %</span>
                <span>
                  {s.light}, {s.side === "air" ? "in the air" : s.material ? `on surfaces, most on ${s.material}` : "on surfaces"}
                </span>
              </li>
            ))}
          </ul>
          {report.sources.length === 0 && <p className="quiet">This frame has no noise to speak of.</p>}
          {report.remedies.map((r) => (
            <button
              key={r.words}
              className="link block text-left"
              title="Measured on this frame, small: error² × time. Ctrl Z takes it back."
              onClick={() => store.getState().set(r.apply)}
            >
              {r.words}: {formatNumber(r.gain, 2)}× less noise² for the time
            </button>
          ))}
          {report.sources.length > 0 && report.remedies.length === 0 && (
            <p className="quiet">None of the remedies tried is worth its time here: more samples are.</p>
          )}
        </div>
      )}
    </div>
  );
}
