/** Which of its two faces the table of lights shows. */
import { useBench, useView } from "../../model/context";
import { alongRadios } from "../../../shared/controls";

const FACES = [
  ["settings", "Settings", "Every light with its strength, colour and shares."],
  ["balance", "Balance", "What the film keeps of each light group, balanced after the render: nothing renders anew."],
] as const;

export function TableSwitch() {
  const { view } = useBench();
  const face = useView((s) => s.lightTable);
  return (
    <div role="radiogroup" aria-label="Table of" className="flex gap-3" onKeyDown={alongRadios}>
      {FACES.map(([value, words, tooltip]) => (
        <button
          key={value}
          role="radio"
          aria-checked={face === value}
          tabIndex={face === value ? 0 : -1}
          title={tooltip}
          className={`border-b-2 ${face === value ? "border-primary" : "border-transparent quiet hover:border-base-300"}`}
          onClick={() => view.setState({ lightTable: value })}
        >
          {words}
        </button>
      ))}
    </div>
  );
}
