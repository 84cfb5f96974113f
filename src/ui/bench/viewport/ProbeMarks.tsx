/** Where probes are set in the picture, by their numbers. */
import { useView } from "../model/context";

export function ProbeMarks() {
  const probes = useView((s) => s.probes);
  return probes.map(({ x, y }, i) => (
    <span
      key={i}
      aria-hidden
      className="figures pointer-events-none absolute -translate-1/2 rounded-full border border-primary bg-black/50 px-1 text-[10px] leading-[1.4] text-primary"
      style={{ left: `${100 * x}%`, top: `${100 * y}%` }}
    >
      {i + 1}
    </span>
  ));
}
