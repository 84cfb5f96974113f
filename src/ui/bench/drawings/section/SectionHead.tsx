/** Above a section: which way it is cut, how distances run, where its ray ends. */
import { formatNumber } from "#core/document/quantities";
import type { Section } from "#core/section/probe";
import { NumberField } from "../../../shared/NumberField";
import { useBench, useScene, useView } from "../../model/context";
import { useLengths } from "../../../shared/units";

const HEAD = 27;

export function SectionHead(p: { section: Section | null; fits: boolean; fit(): void; milliseconds: number | null }) {
  const { view } = useBench();
  const lengths = useLengths();
  const doc = useScene();
  const { cut, scale, cutHeight } = useView((s) => s);
  const lens = doc.camera.position[1];
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
        <span className="flex items-center gap-1 quiet">
          at
          <span className="w-20">
            <NumberField
              bare
              label="Height of the cut"
              unit="m"
              quantity="length"
              value={cutHeight ?? lens}
              min={-1e6}
              max={1e6}
              useful={[lens - 10, lens + 10]}
              step={0.05}
              reset={lens}
              digits={4}
              tooltip="Height of the level cut. A double click brings it back to the lens, with which it then moves."
              onChange={(v) => view.setState({ cutHeight: v === lens ? null : v })}
            />
          </span>
        </span>
      )}
      <span className="mx-1 h-4 border-l hair" />
      {toggle("logarithmic", scale === "logarithmic", "Logarithmic distances, so that near and far are both visible.", () =>
        view.setState({ scale: scale === "even" ? "logarithmic" : "even" }),
      )}
      <button className="btn btn-xs btn-ghost quiet" disabled={p.fits} title="Shows the whole ray. Double click." onClick={p.fit}>
        Fit
      </button>
      {p.section && (
        <span
          className="figures ml-3 truncate quiet"
          title="How far off the ray meets the set, and the light scattered into it on the way (single scattering)."
        >
          {end === null || end === undefined ? "to the background" : `to ${lengths.exact(end, 3)}`}
          {doc.air.length > 0 && `, air adds ${formatNumber(total, 3)} cd/m²`}
        </span>
      )}
      <span className="figures ml-auto w-14 text-right quiet max-[1150px]:hidden" title="Time to compute this section.">
        {p.milliseconds !== null ? `${Math.round(p.milliseconds)} ms` : ""}
      </span>
      <button
        className="btn btn-xs btn-ghost ml-auto min-[1150px]:ml-0"
        title="Closes the section. A"
        onClick={() => view.toggleBelow("section")}
      >
        Close
      </button>
    </div>
  );
}
