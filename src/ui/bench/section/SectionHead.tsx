/** Above a section: which way it is cut, how distances run, where its ray ends. */
import { formatNumber } from "#core/document/quantities";
import type { Section } from "#core/section/probe";
import { useBench, useDocument, useView } from "../context";

const HEAD = 27;

export function SectionHead(p: { section: Section | null; fits: boolean; fit(): void; milliseconds: number | null }) {
  const { view } = useBench();
  const doc = useDocument();
  const { cut, scale, cutHeight } = useView((s) => s);
  const total = p.section?.fate.gains.reduce((a, g) => a + g.total, 0) ?? 0;
  const end = p.section?.fate.end;
  const toggle = (words: string, on: boolean, title: string, onClick: () => void) => (
    <button className={`btn btn-xs ${on ? "btn-outline hair" : "btn-ghost quiet"}`} aria-pressed={on} title={title} onClick={onClick}>
      {words}
    </button>
  );
  return (
    <div className="flex shrink-0 items-center gap-1 overflow-hidden px-3 text-xs whitespace-nowrap" style={{ height: HEAD }}>
      <h2 className="mr-1 text-sm font-semibold">Section</h2>
      {toggle("from the side", cut === "upright", "The upright cut along the line of sight.", () => view.setState({ cut: "upright" }))}
      {toggle("from above", cut === "level", "A level cut, as a plan.", () => view.setState({ cut: "level" }))}
      {cut === "level" && (
        <label className="flex items-center gap-1 quiet" title="Height of the level cut; empty, that of the lens.">
          at
          <input
            type="number"
            step="any"
            aria-label="Height of the cut"
            className="input input-xs figures w-18 px-1"
            placeholder={formatNumber(doc.camera.position[1], 3)}
            value={cutHeight ?? ""}
            onChange={(e) => {
              const v = e.target.value === "" ? null : Number(e.target.value);
              if (v === null || (Number.isFinite(v) && Math.abs(v) < 1e6)) view.setState({ cutHeight: v });
            }}
          />
          m
        </label>
      )}
      <span className="mx-1 h-4 border-l hair" />
      {toggle("stretched", scale === "stretched", "Distances ever closer together, so that near and far are both seen.", () =>
        view.setState({ scale: scale === "even" ? "stretched" : "even" }),
      )}
      <button className="btn btn-xs btn-ghost quiet" disabled={p.fits} title="All that the ray passes. Double click." onClick={p.fit}>
        Whole way
      </button>
      {p.section && (
        <span
          className="figures ml-3 truncate quiet"
          title="Where the ray ends, and the light that air adds to it on its way, scattered once."
        >
          {end === null || end === undefined ? "to the background" : `to what stands ${formatNumber(end, 3)} m away`}
          {doc.air.length > 0 && `, air adds ${formatNumber(total, 3)} cd/m²`}
        </span>
      )}
      <span className="figures ml-auto w-14 text-right quiet" title="What it took to compute this section.">
        {p.milliseconds !== null ? `${Math.round(p.milliseconds)} ms` : ""}
      </span>
      <button className="btn btn-xs btn-ghost" title="Closes the section. A" onClick={() => view.setState({ section: false })}>
        Close
      </button>
    </div>
  );
}
