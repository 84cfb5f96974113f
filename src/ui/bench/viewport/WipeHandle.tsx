/** The line of a wipe, which is dragged across the picture, and turned with Shift. */
import { useBench, useView } from "../model/context";
import { middleOf, tidyAngle } from "./wipe-edge";

/** Degrees of a key. */
const TURN = 5;
const STEP = 0.02;

export function WipeHandle({ box }: { box: [number, number] }) {
  const { view } = useBench();
  const { edge, edgeAngle } = useView((s) => s);
  const [x, y] = middleOf({ edge, angle: edgeAngle }, box);
  const length = 2 * Math.hypot(...box);
  return (
    <div className="pointer-events-none absolute inset-0 overflow-hidden">
      <div
        role="slider"
        tabIndex={0}
        aria-label="Edge of the wipe"
        aria-valuenow={Math.round(edge * 100)}
        aria-valuetext={`${Math.round(edge * 100)} %${edgeAngle === 0 ? "" : `, turned by ${edgeAngle}°`}`}
        title="Drag it; with Shift it turns. Arrows move it, up and down turn it, Home sets it upright."
        className="pointer-events-auto absolute w-5 cursor-col-resize"
        style={{ left: x - 10, top: y - length / 2, height: length, transform: `rotate(${edgeAngle}deg)` }}
        onKeyDown={(e) => {
          const step = e.key === "ArrowLeft" ? -STEP : e.key === "ArrowRight" ? STEP : 0;
          const turn = e.key === "ArrowUp" ? -TURN : e.key === "ArrowDown" ? TURN : 0;
          if (step) view.setState({ edge: Math.max(0, Math.min(1, edge + step)) });
          else if (turn) view.setState({ edgeAngle: tidyAngle(edgeAngle + turn) });
          else if (e.key === "Home") view.setState({ edgeAngle: 0 });
          else return;
          e.preventDefault();
        }}
      >
        <div className="mx-auto h-full w-px bg-primary" />
      </div>
    </div>
  );
}
