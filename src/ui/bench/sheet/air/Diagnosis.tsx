/** What is wrong with the air of this frame, found by measurement; silent when all is well. */
import { useEffect } from "react";
import { diagnose } from "#core/air/diagnose";
import { frameReach } from "#core/air/reach";
import { whiteAt } from "#core/optics/exposure";
import { useBench, useDocument, useSession, useView } from "../../model/context";
import { BLACK } from "../../model/next-step";

/** Milliseconds without an edit after which the frame is looked at. */
const REST = 500;

/** Looks at the frame whenever it rests; draws nothing. */
export function DiagnosisRunner() {
  const { session, view } = useBench();
  const doc = useDocument();
  const median = useSession((s) => s.reach.median);
  const built = useSession((s) => s.bounds !== null);
  const bounds = useSession((s) => s.bounds);
  // at a few samples, at some, and at the end
  const stage = useSession((s) => {
    const n = s.statistics?.samples ?? 0;
    return s.phase === "done" ? 3 : n >= 32 ? 2 : n >= 4 ? 1 : 0;
  });
  useEffect(() => {
    if (!built) return;
    let current = true;
    const timer = setTimeout(() => {
      void (async () => {
        if (!session.section.ready) return;
        const { reach, ground } = frameReach(doc, bounds, median);
        const worker = await session.section.asked();
        const air = await worker.facts(doc, reach);
        if (!current) return;
        const film = session.live();
        // of a window of the frame it would be told what the frame is like
        const seen = film && !film.frame && stage > 0 ? await session.films.facts(film, whiteAt(doc.film.exposure)) : null;
        if (!current) return;
        view.setState({ findings: diagnose(doc, { air, film: seen, ground, reach, bounds }) });
      })().catch(() => undefined); // the picture and the section say what fails
    }, REST);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [doc, stage, built, bounds, median, session, view]);
  return null;
}

export function Diagnosis() {
  const { store } = useBench();
  const all = useView((s) => s.findings);
  const declined = useView((s) => s.declined);
  // what blackens the picture is said above the sheet, until that is declined
  const findings = declined.includes("mend") ? all : all.filter((f) => !BLACK.includes(f.id));
  if (findings.length === 0) return null;
  return (
    <ul aria-label="Diagnosis" className="space-y-2 border-l-2 border-warning/80 py-0.5 pl-2.5">
      {findings.map((f) => (
        <li key={f.id} className="text-xs" data-finding={f.id}>
          <p>{f.says}</p>
          {f.remedies.length > 0 && (
            <span className="mt-0.5 flex flex-wrap gap-x-3">
              {f.remedies.map(({ words, apply }) => (
                <button key={words} className="link text-warning" title="Ctrl Z takes it back." onClick={() => store.getState().set(apply)}>
                  {words}
                </button>
              ))}
            </span>
          )}
        </li>
      ))}
    </ul>
  );
}
