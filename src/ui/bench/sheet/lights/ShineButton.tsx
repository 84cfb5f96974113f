/** Turns a light so that it comes in at one clicked place and lands on another. */
import { useBench, useView } from "../../model/context";
import type { LightId } from "../../model/session";

export function ShineButton({ light }: { light: LightId }) {
  const { view } = useBench();
  const on = useView((s) => s.tool === "shine" && (s.lights.at(-1) ?? "sun") === light);
  return (
    <button
      className={`btn btn-xs w-full ${on ? "btn-primary" : "btn-outline hair"}`}
      aria-pressed={on}
      title="Click an opening in the picture, then the place where the light should land. B"
      onClick={() => {
        view.setState({ lights: [light] });
        view.setState({ tool: on ? "none" : "shine" });
      }}
    >
      Shine from here to there
    </button>
  );
}
