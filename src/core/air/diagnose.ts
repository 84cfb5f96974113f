/** What is wrong with the air of a frame, by what was measured on it: one sentence each, with its number and a remedy. */
import { middleOf, type Box } from "../math/box";
import { map3, type V3 } from "../math/vectors";
import { frameAround, type Bounds } from "../document/framing";
import type { Light, SceneDocument } from "../document/schema";
import { formatNumber } from "../document/quantities";
import { lengthWords } from "../document/units";
import { automaticStep, extinctionOf, meanExtinction, visibility } from "../document/medium";
import { MIDDLE_GREY, whiteAt } from "../optics/exposure";
import type { AirFacts } from "./facts";
import type { FilmFacts } from "./film-facts";
import { roomRegion } from "./starting-points";

export interface Finding {
  id: string;
  /** What is wrong, with its number. */
  says: string;
  /** What can be done, the best first; none where the artist has to choose. */
  remedies: Remedy[];
}

export interface Remedy {
  /** What it does, in a few words. */
  words: string;
  apply(doc: SceneDocument): SceneDocument;
}

export interface Frame {
  air: AirFacts;
  film: FilmFacts | null;
  /** Height of the ground in view and longest distance that matters, m. */
  ground: number;
  reach: number;
  /** Of the set, m; null before there is one. */
  bounds: Bounds | null;
}

const percent = (v: number): string => `${formatNumber(100 * v, 2)} %`;
const tidy = (v: number): number => Number(v.toPrecision(2));
/** Less than this share of sun or sky is as good as none. */
const LOST = 0.02;

/** Media without a border or falloff, by place in the list. */
function boundless(doc: SceneDocument): number[] {
  return doc.air.flatMap((m, i) =>
    m.on && m.density > 0 && m.region.kind === "everywhere" && !m.height && !m.grid && !m.proximity && m.seen.shadow > 0 ? [i] : [],
  );
}

/** Sun or sky swallowed by air without an end. */
function lostLight(doc: SceneDocument, f: Frame): Finding[] {
  const endless = boundless(doc);
  const lost = [
    ...(f.air.sunLeft !== null && f.air.sunLeft < LOST && doc.sun.air > 0 ? ["sun"] : []),
    ...(f.air.skyLeft !== null && f.air.skyLeft < LOST && doc.sky.air > 0 ? ["sky"] : []),
  ];
  if (lost.length === 0) return [];
  const share = lost.length === 2 ? Math.max(f.air.sunLeft!, f.air.skyLeft!) : lost[0] === "sun" ? f.air.sunLeft! : f.air.skyLeft!;
  const who = lost.join(" and ");
  if (endless.length > 0) {
    const names = endless.map((i) => doc.air[i]!.name).join(", ");
    return [
      {
        id: "lost",
        says: `${share < 1e-6 ? "Nothing" : percent(share)} of the ${who} reaches the visible air: ${names} is unbounded, so light from outside crosses it without end.`,
        remedies: [
          ...(f.air.place.room ? [keptInside(endless, f.air.place.room.box)] : []),
          {
            words: "add a height falloff",
            apply: (d) => ({
              ...d,
              air: d.air.map((m, i) =>
                endless.includes(i)
                  ? { ...m, height: { shape: "exponential", level: tidy(f.ground), scale: tidy(f.reach / 8), up: [0, 1, 0] } }
                  : m,
              ),
            }),
          },
        ],
      },
    ];
  }
  return [
    {
      id: "lost",
      says: `${percent(share)} of the ${who} reaches the visible air: the air above it is too dense.`,
      remedies: [{ words: "reduce density: 10 % transmittance", apply: (d) => denser(d, Math.log(10) / -Math.log(Math.max(share, 1e-9))) }],
    },
  ];
}

/** Bounds media by the room that the lens stands in. */
function keptInside(media: readonly number[], box: Readonly<Box>): Remedy {
  const region = roomRegion(box);
  return {
    words: "keep it to the set's inside",
    apply: (d) => ({ ...d, air: d.air.map((m, i) => (media.includes(i) ? { ...m, region } : m)) }),
  };
}

/** All media that are on, so many times as dense. */
function denser(doc: SceneDocument, factor: number): SceneDocument {
  return { ...doc, air: doc.air.map((m) => (m.on ? { ...m, density: Math.min(1e9, Number((m.density * factor).toPrecision(3))) } : m)) };
}

function amount(doc: SceneDocument, f: Frame): Finding[] {
  const { median } = f.air;
  if (!doc.air.some((m) => m.on && m.density > 0)) return [];
  const densest = doc.air
    .filter((m) => m.on)
    .reduce(
      (a, m) => (meanExtinction(m) > meanExtinction(a) ? m : a),
      doc.air.find((m) => m.on)!,
    );
  if (median && median.left < 0.02)
    return [
      {
        id: "dense",
        says: `${percent(median.left)} of light is left at the middle of the view, ${lengthWords(doc.units).rough(median.distance)} away: visibility in ${densest.name} is ${lengthWords(doc.units).rough(visibility(meanExtinction(densest)))}.`,
        remedies: [
          {
            words: "reduce density: 30 % transmittance to there",
            apply: (d) => denser(d, Math.log(0.3) / Math.log(Math.max(median.left, 1e-9))),
          },
        ],
      },
    ];
  if (f.film && f.film.changed !== null && f.film.changed < 0.01 && f.film.samples >= 4)
    return [
      {
        id: "thin",
        says: `The air changes ${f.film.changed === 0 ? "no part" : percent(f.film.changed)} of the picture by a grey level${median ? `: ${formatNumber(100 * median.left, 4)} % transmittance over the ${lengthWords(doc.units).rough(median.distance)} to what is seen` : ""}.`,
        // where the ray meets next to no air, no density of it would show
        remedies:
          median && median.left < 1 - 1e-7
            ? [{ words: "increase density: 70 % transmittance", apply: (d) => denser(d, Math.log(0.7) / Math.log(median.left)) }]
            : [],
      },
    ];
  return [];
}

function unlit(doc: SceneDocument): Finding[] {
  const out: Finding[] = [];
  const local = doc.lights.filter((l) => l.on && l.intensity > 0);
  const dark = local.filter((l) => l.air === 0);
  const shining = [
    doc.sun.on && doc.sun.air > 0,
    doc.moon.on && doc.moon.air > 0,
    doc.sky.on && doc.sky.air > 0,
    local.length > dark.length,
  ].some(Boolean);
  if (doc.sun.on && doc.sun.air === 0)
    out.push({
      id: "sun share",
      says: "The sun's air contribution is 0 %: it can throw no shafts.",
      remedies: [{ words: "set its air contribution to 100 %", apply: (d) => ({ ...d, sun: { ...d.sun, air: 1 } }) }],
    });
  // a lamp for surfaces alone is a choice, while other light shows the air
  if (dark.length > 0 && !shining)
    out.push({
      id: "lamp share",
      says: `${dark.length === 1 ? `${dark[0]!.name} gives` : `${dark.length} lamps give`} 0 % of ${dark.length === 1 ? "its" : "their"} light to the air.`,
      remedies: [
        {
          words: dark.length === 1 ? "set its air contribution to 100 %" : "set their air contribution to 100 %",
          apply: (d) => ({ ...d, lights: d.lights.map((l) => (l.on && l.air === 0 ? { ...l, air: 1 } : l)) }),
        },
      ],
    });
  doc.air.forEach((m, i) => {
    if (!m.on || m.density === 0) return;
    const lights = [doc.sun, doc.moon, ...doc.lights].filter((l) => l.on);
    if (!doc.sky.on && lights.length > 0 && !m.emission && lights.every((l) => l.media !== null && !l.media.includes(m.name)))
      out.push({
        id: `reach ${i}`,
        says: `None of ${lights.length} lights reaches ${m.name}: it is black.`,
        remedies: [
          {
            words: "let all lights reach it",
            apply: (d) => {
              const with_ = <T extends { media: string[] | null }>(l: T): T =>
                l.media && !l.media.includes(m.name) ? { ...l, media: [...l.media, m.name] } : l;
              return { ...d, sun: with_(d.sun), moon: with_(d.moon), lights: d.lights.map(with_) };
            },
          },
        ],
      });
    if (m.seen.camera === 0)
      out.push({
        id: `camera ${i}`,
        says: `The camera sees 0 % of ${m.name}.`,
        remedies: [
          {
            words: "show it to the camera at 100 %",
            apply: (d) => ({ ...d, air: d.air.map((x, k) => (k === i ? { ...x, seen: { ...x.seen, camera: 1 } } : x)) }),
          },
        ],
      });
  });
  return out;
}

function places(doc: SceneDocument, f: Frame): Finding[] {
  return doc.air.flatMap((m, i): Finding[] => {
    if (!m.on || m.density === 0 || m.seen.camera === 0 || f.air.crossed[i] !== 0) return [];
    const { region } = m;
    if (region.kind === "everywhere" || region.kind === "mesh") return [];
    return [
      {
        id: `outside ${i}`,
        says: `${m.name} meets none of the camera rays: its region is outside the view.`,
        remedies: [
          {
            words: "move it into view",
            apply: (d) => {
              const { camera } = d;
              const gap = Math.hypot(...camera.target.map((v, k) => v - camera.position[k]!));
              const distance = Math.min(gap, f.air.median?.distance ?? gap);
              const at = map3(camera.position, (p, k) => tidy(p + (distance * (camera.target[k] - p)) / gap));
              return {
                ...d,
                air: d.air.map((x, k) =>
                  k !== i
                    ? x
                    : "centre" in x.region
                      ? { ...x, region: { ...x.region, centre: at } }
                      : { ...x, region: { kind: "layer" as const, level: at[1], up: [0, 1, 0] as [number, number, number] } },
                ),
              };
            },
          },
        ],
      },
    ];
  });
}

/** Half of the picture this many stops below middle grey is dark; it is brought to within so many of it. */
const [DARK, BROUGHT_TO] = [3.5, 1.5];

function dark(doc: SceneDocument, { film }: Frame): Finding[] {
  if (!film || !(film.median > 0) || film.samples < 1) return [];
  const below = Math.log2((MIDDLE_GREY * whiteAt(doc.film.exposure)) / film.median);
  if (below < DARK) return [];
  const stops = Math.round(below - BROUGHT_TO);
  return [
    {
      id: "dark",
      says: `The picture is dark: half of it lies ${formatNumber(below, 2)} stops or more below middle grey.`,
      remedies: [
        {
          words: `expose ${stops} stops brighter`,
          apply: (d) => ({ ...d, film: { ...d.film, exposure: Math.max(-20, Number((d.film.exposure - stops).toFixed(6))) } }),
        },
      ],
    },
  ];
}

function exposure(f: Frame): Finding[] {
  if (!f.film || f.film.airClipped < 0.08) return [];
  const stops = f.film.airClipped > 0.4 ? 2 : 1;
  return [
    {
      id: "clipped",
      says: `The air alone is past white in ${percent(f.film.airClipped)} of the frame: scattered light needs another exposure.`,
      remedies: [
        {
          words: `expose ${stops} ${stops === 1 ? "stop" : "stops"} darker`,
          apply: (d) => ({ ...d, film: { ...d.film, exposure: Math.min(30, d.film.exposure + stops) } }),
        },
      ],
    },
  ];
}

function sampling(doc: SceneDocument, f: Frame): Finding[] {
  const out: Finding[] = [];
  const step = doc.render.stepSize;
  if (doc.render.estimator === "stepping" && step !== "auto")
    doc.air.forEach((m) => {
      const wanted = automaticStep(m);
      if (m.on && m.noise && step > 4 * wanted && Math.max(...extinctionOf(m)) > 0)
        out.push({
          id: "steps",
          says: `Steps of ${lengthWords(doc.units).rough(step)} miss features of ${m.name} ${lengthWords(doc.units).rough(2 * wanted)} across.`,
          remedies: [{ words: "use the automatic step size", apply: (d) => ({ ...d, render: { ...d.render, stepSize: "auto" } }) }],
        });
    });
  if (
    f.film &&
    f.film.samples >= 16 &&
    f.film.noise > 0.05 &&
    f.film.airNoise > 0.75 &&
    doc.render.airSamples < 32 &&
    doc.render.level !== "veil"
  )
    out.push({
      id: "noise",
      says: `The air makes ${percent(f.film.airNoise)} of the noise: more samples per pixel would refine surfaces that are fine already.`,
      remedies: [
        {
          words: "double the air samples",
          apply: (d) => ({ ...d, render: { ...d.render, airSamples: Math.min(64, 2 * d.render.airSamples) } }),
        },
      ],
    });
  return out.slice(0, 2);
}

/** Lens and lamps that stand where nothing can be seen or lit. */
function standing(doc: SceneDocument, { air: { place }, film, bounds }: Frame): Finding[] {
  const out: Finding[] = [];
  // a room of single sheets is closed as a solid is, but light finds a way in
  if (place.inSolid && film && film.samples >= 1 && film.mean === 0)
    out.push({
      id: "in solid",
      says: "The picture is black: the camera is inside a solid, and no light comes in.",
      remedies: bounds
        ? [
            {
              words: "stand it before the set",
              apply: (d) => ({ ...d, camera: frameAround(bounds, d.film.size[0] / d.film.size[1], d.camera) }),
            },
          ]
        : [],
    });
  const names = (which: number[]): string => (which.length === 1 ? doc.lights[which[0]!]!.name : `${which.length} lamps`);
  const moved = (which: number[], to: (l: Light) => Light): Remedy["apply"] => (d) => ({ ...d, lights: d.lights.map((l, i) => (which.includes(i) ? to(l) : l)) }); // prettier-ignore
  const { room, outside, onNothing } = place;
  if (outside.length > 0 && room) {
    const [x, y, z] = middleOf(room.box);
    const height = Number((y + 0.3 * (room.box[4] - room.box[1])).toFixed(2));
    const at: V3 = [Number(x.toFixed(2)), height, Number(z.toFixed(2))];
    const one = outside.length === 1;
    out.push({
      id: "lamp outside",
      says: `${names(outside)} ${one ? "stands" : "stand"} outside the room that the camera is in: none of ${one ? "its" : "their"} light comes in.`,
      remedies: [
        {
          words: one ? "move it in, below the ceiling" : "move them in, below the ceiling",
          apply: moved(outside, (l) => ({ ...l, position: at, ...("target" in l ? { target: [at[0], room.box[1], at[2]] as V3 } : {}) })),
        },
      ],
    });
  }
  if (onNothing.length > 0) {
    const one = onNothing.length === 1;
    const aimed = onNothing.every((i) => "target" in doc.lights[i]!);
    out.push({
      id: "lamp on nothing",
      says: `${names(onNothing)} ${one ? "shines" : "shine"} on nothing: ${one ? "its" : "their"} light meets neither a surface nor air.`,
      remedies: aimed
        ? [
            {
              words: one ? "aim it at what the camera looks at" : "aim them at what the camera looks at",
              apply: (d) => moved(onNothing, (l) => ("target" in l ? { ...l, target: [...d.camera.target] } : l))(d),
            },
          ]
        : [],
    });
  }
  return out;
}

/** A lamp wider than its gobo: most of it looks past the pattern, and little of it finds the way through. */
function gobos(doc: SceneDocument): Finding[] {
  return doc.lights
    .flatMap((l, i): Finding[] => {
      if (!l.on || l.kind !== "spot" || !l.gobo || !(l.radius > 0)) return [];
      const half = l.gobo.distance * Math.tan((l.cone * Math.PI) / 360);
      if (l.radius < 1.5 * half) return [];
      return [
        {
          id: `gobo ${i}`,
          says: `${l.name} is ${lengthWords(doc.units).rough(2 * l.radius)} wide and its gobo ${lengthWords(doc.units).rough(2 * half)}: ${percent((half / l.radius) ** 2)} of its light passes, without a pattern and with much noise.`,
          remedies: [
            {
              words: "shrink the lamp to a quarter of the gobo",
              apply: (d) => ({
                ...d,
                lights: d.lights.map((x, k) => (k === i && x.kind === "spot" ? { ...x, radius: tidy(half / 4) } : x)),
              }),
            },
          ],
        },
      ];
    })
    .slice(0, 2);
}

/** All that was found; empty when all is well. Gravest first. */
export function diagnose(doc: SceneDocument, frame: Frame): Finding[] {
  // what blackens a picture without any air too
  const black = [...standing(doc, frame), ...dark(doc, frame)];
  if (doc.air.length === 0) return black;
  return [
    ...black,
    ...lostLight(doc, frame),
    ...amount(doc, frame),
    ...unlit(doc),
    ...places(doc, frame),
    ...gobos(doc),
    ...exposure(frame),
    ...sampling(doc, frame),
  ];
}
