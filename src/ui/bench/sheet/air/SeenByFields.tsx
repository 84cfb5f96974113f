/** Which rays see a medium, and how far. */
import { useState } from "react";
import { Num } from "../../../shared/Num";
import type { MediumFields } from "../../model/medium-fields";

const RAYS = {
  camera: ["The lens", "What the lens sees of this air; 0 leaves it to light and shadow alone."],
  sky: ["Before the sky", "How far it veils the background: 0 leaves the sky untouched behind it."],
  reflection: ["In mirrors", "What reflections see of it."],
  refraction: ["Through glass", "What refracted light sees of it."],
  indirect: ["Indirect light", "What light between surfaces sees of it."],
  shadow: ["In shadow rays", "How far it dims light on its way from lamps, sun and sky: 0 throws no shadow on itself."],
} as const;

export function ShareFields({ medium, set }: MediumFields) {
  const changed = Object.values(medium.seen).some((v) => v !== 1);
  const [open, setOpen] = useState(changed);
  return (
    <>
      <button className="link link-hover pt-2 text-xs" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Less" : "What sees this air"}
        {!open && changed ? ", changed" : ""}
      </button>
      {open &&
        (Object.keys(RAYS) as (keyof typeof RAYS)[]).map((ray) => (
          <Num
            key={ray}
            label={RAYS[ray][0]}
            quantity="share"
            value={medium.seen[ray]}
            min={0}
            max={1}
            step={0.01}
            reset={1}
            tooltip={`${RAYS[ray][1]} 1 is the physical truth.`}
            onChange={(v) => set({ seen: { ...medium.seen, [ray]: v } })}
          />
        ))}
    </>
  );
}
