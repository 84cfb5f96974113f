/** Which rays see a medium, and how far. */
import { Num } from "../../../shared/Num";
import { MediumGroup } from "../Group";
import type { MediumFields } from "../../model/medium-fields";

const RAYS = {
  camera: ["Camera", "Share with which the camera sees this medium; at 0 it only lights and shadows."],
  sky: ["Sky", "Share with which it veils the background; at 0 the sky stays clear behind it."],
  reflection: ["Reflections", "Share with which reflections see it."],
  refraction: ["Refractions", "Share with which refracted rays see it."],
  indirect: ["Indirect light", "Share with which light between surfaces sees it."],
  shadow: ["Shadows", "Share with which it dims light from lamps, sun and sky; at 0 it casts no shadow, not even on itself."],
} as const;

export function SeenByFields({ medium, set }: MediumFields) {
  return (
    <MediumGroup id="seen" medium={medium}>
      {(Object.keys(RAYS) as (keyof typeof RAYS)[]).map((ray) => (
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
    </MediumGroup>
  );
}
