/** What a frame may take by now, as the project's budget says. */
import { useEffect, useState } from "react";
import { secondsAllowed } from "#core/document/budget";
import { useDocument } from "./context";

/** Milliseconds between looks at the clock, for budgets until a time of day. */
const CLOCK = 20_000;

/** Seconds; null where there is no limit. */
export function useAllowed(): number | null {
  const limit = useDocument((d) => d.budget.limit);
  const [now, setNow] = useState(() => new Date());
  useEffect(() => {
    setNow(new Date());
    if (limit?.kind !== "by") return;
    const timer = setInterval(() => setNow(new Date()), CLOCK);
    return () => clearInterval(timer);
  }, [limit?.kind]);
  return secondsAllowed(limit, now);
}
