/** A small frame in fog, with tiles that are cut off on both sides. */
import { parseDocument } from "#core/document/parse";
import type { SceneDocument } from "#core/document/schema";

export const foggy = (render: object, film: object = {}, more: object = {}): SceneDocument =>
  parseDocument({
    fumarium: 2,
    materials: { floor: { baseColor: [0.6, 0.5, 0.4] } },
    camera: { position: [0, 2, 8], target: [0, 1, 0] },
    film: { size: [104, 62], lightGroups: true, ...film },
    objects: [
      { kind: "rectangle", material: "floor", size: [30, 30] },
      { kind: "sphere", material: "floor", position: [0, 1, 0], radius: 1 },
    ],
    sun: { azimuth: 60, elevation: 35 },
    lights: [{ kind: "point", position: [1, 2, 1], intensity: 3000 }],
    air: [{ density: 0.08, anisotropy: 0.5, noise: { size: 2 } }],
    render: { samples: 12, seed: 5, ...render },
    ...more,
  });
