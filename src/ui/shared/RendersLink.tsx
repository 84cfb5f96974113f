/** The way to the renders, with how many go on. */
import { useEffect, useState } from "react";
import { API, call, type AnswerOf } from "#api/contract";
import { request } from "./api";

/** Milliseconds between looks. */
const LOOK = 5000;

/** @param bench whether it stands on a bench, beside which fewer threads render */
export function RendersLink({ bench = false }: { bench?: boolean }) {
  const [now, setNow] = useState<AnswerOf<typeof API.rendersNow> | null>(null);
  useEffect(() => {
    const look = (): void => {
      // nobody looks: nothing has to be quick
      if (document.hidden) return;
      call(request, API.rendersNow, { bench }).then(setNow, () => setNow(null));
    };
    look();
    const timer = setInterval(look, LOOK);
    return () => clearInterval(timer);
  }, [bench]);
  const said = now && (now.going > 0 || now.failed > 0);
  return (
    <a href="/renders" className="link link-hover text-xs" title="Finals that are rendered in the background.">
      Renders
      {said && (
        <span className={`figures ml-1 ${now.failed > 0 ? "text-error" : "text-primary"}`}>
          {now.going > 0 ? `${now.going}${now.share === null ? "" : ` · ${Math.round(100 * now.share)} %`}` : `${now.failed} failed`}
        </span>
      )}
    </a>
  );
}
