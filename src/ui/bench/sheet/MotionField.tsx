/** What moves by time says so, and can be held. */
import type { Motion } from "#core/document/motion";
import { formatNumber } from "#core/document/quantities";
import { TimeField } from "./TimeField";
import { Readout } from "../../shared/controls";

export function MotionField({ motion, onHold }: { motion: Pick<Motion, "times"> | null; onHold(): void }) {
  if (!motion) return null;
  const { times } = motion;
  return (
    <>
      <Readout label="Moves by time">
        <span
          className="figures"
          title="As the animation of its file has it: it goes along with the time of the picture, and with the frames of a final. Moved by hand, it moves no more."
        >
          {formatNumber(times[0]!, 4)} to {formatNumber(times.at(-1)!, 4)} s, {times.length} {times.length === 1 ? "key" : "keys"}
        </span>{" "}
        <button className="btn btn-xs btn-ghost" title="It stays where it is at this moment." onClick={onHold}>
          Hold still
        </button>
      </Readout>
      <TimeField />
    </>
  );
}
