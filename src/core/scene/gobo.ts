/** Gobos: patterns that break a light into rays, our own procedural ones or images. */
import { InputError } from "../errors";
import type { Gobo } from "../document/lights";
import { blurred, type Picture } from "../data/picture";
import { memoize } from "../math/memoize";
import { goboAsset } from "../document/assets";

const SIDE = 256;

/** Small seeded generator (Weyl sequence through a hash): numbers in [0, 1). */
function dice(seed: number): () => number {
  let state = (seed * 0x9e3779b9) >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let h = Math.imul(state ^ (state >>> 15), 1 | state);
    h ^= h + Math.imul(h ^ (h >>> 7), 61 | h);
    return ((h ^ (h >>> 14)) >>> 0) / 4294967296;
  };
}

const smooth = (a: number, b: number, x: number): number => {
  const t = Math.max(0, Math.min(1, (x - a) / (b - a)));
  return t * t * (3 - 2 * t);
};

/** Foliage: overlapping pointed ovals of many sizes, repeating at the edges, until the open share is reached. */
function leaves(g: Gobo): Float32Array {
  const out = new Float32Array(SIDE * SIDE).fill(1);
  const random = dice(g.seed);
  const length = (SIDE / g.count) * 1.1;
  let open = SIDE * SIDE;
  for (let n = 0; n < 3000 && open > g.open * SIDE * SIDE; n++) {
    const [cx, cy] = [random() * SIDE, random() * SIDE];
    const a = random() * 2 * Math.PI;
    const l = length * (0.5 + 0.7 * random());
    const w = l * (0.22 + 0.16 * random());
    const [c, s] = [Math.cos(a), Math.sin(a)];
    const r = Math.ceil(l);
    for (let j = -r; j <= r; j++)
      for (let i = -r; i <= r; i++) {
        const u = (i * c + j * s) / l,
          v = (j * c - i * s) / w;
        if (Math.abs(u) >= 1 || Math.abs(v) >= (1 - u * u) * (1 - 0.25 * u)) continue;
        const x = (Math.floor(cx + i) + 4 * SIDE) % SIDE,
          y = (Math.floor(cy + j) + 4 * SIDE) % SIDE;
        if (out[y * SIDE + x] === 1) open--;
        out[y * SIDE + x] = 0;
      }
  }
  return out;
}

/** Slats across, with a little unevenness in how far each is turned. */
function blinds(g: Gobo): Float32Array {
  const n = Math.max(1, Math.round(g.count));
  const random = dice(g.seed);
  const gap = Array.from({ length: n }, () => g.open * (0.9 + 0.2 * random()));
  return pattern((_, y) => {
    const at = y * n;
    const f = at - Math.floor(at);
    const open = Math.min(1, gap[Math.floor(at) % n]!) / 2;
    return 1 - smooth(open - 0.02, open + 0.02, Math.abs(f - 0.5));
  });
}

/** A window with bars: panes between crossing bars. */
function bars(g: Gobo): Float32Array {
  const n = Math.max(1, Math.round(g.count));
  // bars of equal width both ways leave the square of what is open along one
  const half = Math.sqrt(g.open) / 2;
  const along = (x: number): number => {
    const f = x * n - Math.floor(x * n);
    return 1 - smooth(half - 0.01, half + 0.01, Math.abs(f - 0.5));
  };
  return pattern((x, y) => along(x) * along(y));
}

/** Light through moving water: bright lines where waves focus it. */
function ripples(g: Gobo): Float32Array {
  const random = dice(g.seed);
  const waves = Array.from({ length: 9 }, () => {
    const k = Math.max(1, Math.round(g.count * (0.5 + random())));
    const a = random() * 2 * Math.PI;
    return { kx: Math.round(k * Math.cos(a)), ky: Math.round(k * Math.sin(a)), phase: random() * 2 * Math.PI };
  });
  const raw = pattern((x, y) => {
    let sum = 0;
    for (const w of waves)
      sum += Math.sin(2 * Math.PI * (w.kx * x + w.ky * y) + w.phase + 0.7 * Math.sin(2 * Math.PI * (w.ky * x - w.kx * y)));
    return 1 / (0.12 + Math.abs(sum) / waves.length);
  });
  const mean = raw.reduce((a, v) => a + v, 0) / raw.length;
  return raw.map((v) => (v / mean) * g.open);
}

function pattern(f: (x: number, y: number) => number): Float32Array {
  const out = new Float32Array(SIDE * SIDE);
  for (let y = 0; y < SIDE; y++) for (let x = 0; x < SIDE; x++) out[y * SIDE + x] = f((x + 0.5) / SIDE, (y + 0.5) / SIDE);
  return out;
}

/**
 * A gobo as an RGB picture, softened by what an emitter of the given radius makes of it.
 * @param time of the picture, s: picks the frame of a sequence
 * @param acrossMetres width the picture has in its plane
 * @param emitterRadius m; 0 keeps it sharp
 */
export function goboPicture(
  g: Gobo,
  time: number,
  pictures: Readonly<Record<string, Picture>>,
  acrossMetres: number,
  emitterRadius: number,
): Picture {
  let picture: Picture;
  // seen from far behind, an emitter's disk blurs its plane by its own size
  const soft = (sharp: Picture): Picture => blurred(sharp, ((0.4 * emitterRadius) / acrossMetres) * sharp.width);
  if (g.pattern === "image" || g.pattern === "sequence") {
    const asset = goboAsset(g, time)!;
    const found = pictures[asset];
    if (!found) throw new InputError(`gobo: picture "${asset}" is missing`);
    picture = { ...found, rgb: found.rgb.map((v) => (v > 0 ? Math.min(v, 1) : 0)) };
  } else {
    const draw = { leaves, blinds, bars, ripples }[g.pattern];
    return drawn(JSON.stringify([g, emitterRadius / acrossMetres]), () => {
      const grey = draw(g);
      return soft({ width: SIDE, height: SIDE, rgb: new Float32Array(3 * SIDE * SIDE).map((_, i) => grey[Math.floor(i / 3)]!) });
    });
  }
  return soft(picture);
}

/** Our own patterns take a while to draw; lights share few of them. */
const drawn = memoize<Picture>(8);
