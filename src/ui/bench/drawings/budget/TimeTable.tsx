/** Where the time of the frame goes: by what is traced, by light and by medium, and where in the picture. */
import { useEffect, useRef, useState } from "react";
import { useStore } from "zustand";
import { NO_MEDIUM, timeShares, timeSharesAt, type TimeRow, type TimeShares, UNLIT } from "#core/budget/time-shares";
import { durationText, formatNumber } from "#core/document/quantities";
import { HEATS, type Heat, type HeatKind } from "#core/film/heat";
import { whiteAt } from "#core/optics/exposure";
import { DARK } from "#core/scene/parameters";
import { contextOf } from "../../../shared/canvas";
import { useBench, useDocument, useSession } from "../../model/context";

/** Milliseconds between readings of what was seen. */
const READ = 1000;
/** Looks from which on shares are told. */
const ENOUGH = 200;
/** Pixels across a heat picture. */
const ACROSS = 144;

export function TimeTable() {
  const { session, price } = useBench();
  const doc = useDocument();
  const frame = useStore(price.state, (s) => s.frame);
  const phase = useSession((s) => s.phase);
  const covered = useSession((s) => s.covered);
  const shared = useSession((s) => s.shared);
  const [shares, setShares] = useState<TimeShares | null>(null);
  const [heat, setHeat] = useState<Heat | null>(null);
  const [told, setTold] = useState("");
  // another picture is looked at anew
  useEffect(() => {
    session.meter.start();
    setShares(null);
    return () => session.meter.stop();
  }, [session, covered?.air, covered?.lights, covered?.render, covered?.camera]);
  useEffect(() => {
    const read = async (): Promise<void> => {
      const { geometry } = session.state.getState();
      const looks = session.meter.seen;
      if (looks.all >= ENOUGH && geometry) setShares(timeShares(looks, session.seen(), geometry.materials));
      const film = session.live();
      if (film && session.state.getState().progress) {
        const found = await session.films.heat(film, ACROSS, DARK * whiteAt(doc.film.exposure)).catch(() => null);
        if (found) setHeat(found);
      }
    };
    void read();
    const timer = setInterval(() => void read(), READ);
    return () => clearInterval(timer);
  }, [session, doc.film.exposure]);
  const seconds = frame ? Math.max(0, frame.seconds) : null;
  return (
    <div className="flex gap-6">
      <div className="min-w-0 flex-1">
        {heat && (
          <p role="status" aria-label="At this place" className="figures mb-2 text-xs quiet">
            {told || "Rest on one of the pictures to see what a place of the frame costs, and what it goes to."}
          </p>
        )}
        {!shared ? (
          <p className="text-xs quiet">
            This page has no memory that threads share, so nobody can look at what they are at. The heat pictures are counted.
          </p>
        ) : !shares ? (
          <p role="status" className="text-xs quiet">
            {phase === "done" || phase === "paused"
              ? "The picture is not rendered just now. An edit, or more samples, shows where its time goes."
              : "Looking at what the threads are at …"}
          </p>
        ) : (
          <div className="grid grid-cols-3 gap-6" data-looks={shares.looks}>
            <Shares title="What is traced" rows={shares.parts} seconds={seconds} />
            <Shares title="Lights" rows={shares.lights} seconds={seconds} />
            <Shares title="Media" rows={shares.media} seconds={seconds} />
          </div>
        )}
        <Besides />
      </div>
      {heat && <Heats heat={heat} onTold={setTold} />}
    </div>
  );
}

function Shares({ title, rows, seconds }: { title: string; rows: readonly TimeRow[]; seconds: number | null }) {
  return (
    <table aria-label={title} className="figures w-full table-fixed self-start text-xs">
      <thead>
        <tr className="text-left">
          <th className="font-semibold">{title}</th>
          <th className="w-12" />
          <th className="w-20" />
        </tr>
      </thead>
      <tbody>
        {rows.map((r) => (
          <tr key={r.words} title={`${r.tooltip} ${formatNumber(100 * r.share, 3)} ± ${formatNumber(100 * r.error, 1)} % of the time.`}>
            <td className="relative truncate py-0.5">
              <span aria-hidden className="absolute inset-y-0.5 left-0 bg-primary/25" style={{ width: `${100 * r.share}%` }} />
              <span className="relative pl-1">{r.words}</span>
            </td>
            <td className="text-right">{formatNumber(100 * r.share, r.share < 0.1 ? 2 : 3)} %</td>
            <td className="text-right whitespace-nowrap quiet">{seconds === null ? "" : durationText(seconds * r.share)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What a frame takes besides what is traced. */
function Besides() {
  const { session, price } = useBench();
  const cpu = useStore(price.state, (s) => s.besides);
  if (!cpu) return null;
  return (
    <p className="figures mt-2 text-xs quiet">
      Besides: building the set {durationText(session.buildSeconds)}, clean-up {durationText(cpu.clean)} of processor time. A region that is
      drawn (R) is looked at alone.
    </p>
  );
}

/** Rows of a place that are named. */
const NAMED = 2;
const mostOf = (rows: readonly TimeRow[]): string =>
  rows
    .filter((r) => r.words !== UNLIT && r.words !== NO_MEDIUM)
    .slice(0, NAMED)
    .map((r) => `${r.words} ${formatNumber(100 * r.share, 2)} %`)
    .join(", ") || "none";

const WORDS: Record<HeatKind, { label: string; tooltip: string }> = {
  time: { label: "Time per sample", tooltip: "Rays that a sample of each place takes, against the mean." },
  noise: { label: "Noise per sample", tooltip: "Error of one sample as a share of the brightness, against the mean." },
  worth: { label: "Time × variance", tooltip: "Where more samples go to bring the noise down: the time that evens it out." },
};

function Heats({ heat, onTold }: { heat: Heat; onTold(words: string): void }) {
  const { session } = useBench();
  const at = async (x: number, y: number): Promise<void> => {
    const i = Math.min(heat.height - 1, Math.floor(y * heat.height)) * heat.width + Math.min(heat.width - 1, Math.floor(x * heat.width));
    const numbers = HEATS.map((kind) => `${WORDS[kind].label.toLowerCase()} ×${formatNumber(heat.values[kind][i] ?? 0, 2)}`).join(", ");
    const worker = await session.section.asked();
    const doc = session.seen();
    const [met] = await worker.seen(doc, [{ x, y }]);
    const here = timeSharesAt(session.meter.seen, x, y, doc, session.state.getState().geometry?.materials ?? []);
    const most = here && `. Lights: ${mostOf(here.lights)}. Media: ${mostOf(here.media)}.`;
    onTold(`${met ? `${met.object}, ${met.material}` : "background"}: ${numbers}${most ?? ""}`);
  };
  return (
    <div className="w-36 shrink-0 space-y-0.5 text-xs leading-tight">
      {HEATS.map((kind) => (
        <figure key={kind} title={WORDS[kind].tooltip}>
          <Painted heat={heat} kind={kind} onPoint={(x, y) => void at(x, y)} />
          <figcaption className="figures flex justify-between">
            <span>{WORDS[kind].label}</span>
            <span className="quiet">to ×{formatNumber(heat.full[kind], 2)}</span>
          </figcaption>
        </figure>
      ))}
    </div>
  );
}

function Painted({ heat, kind, onPoint }: { heat: Heat; kind: HeatKind; onPoint(x: number, y: number): void }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const c = canvas.current!;
    c.width = heat.width;
    c.height = heat.height;
    contextOf(c).putImageData(new ImageData(heat.pixels[kind], heat.width, heat.height), 0, 0);
  }, [heat, kind]);
  return (
    <canvas
      ref={canvas}
      role="img"
      aria-label={WORDS[kind].label}
      className="w-full"
      onPointerMove={(e) => {
        const box = e.currentTarget.getBoundingClientRect();
        onPoint((e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height);
      }}
    />
  );
}
