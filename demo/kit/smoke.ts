/**
 * A small fluid: hot smoke that rises from a source, stirs itself and thins out. Velocities, density and heat at the middles of even
 * cells; carried backwards along the flow (Stam 1999, density and heat with the corrected step of Selle et al. 2008), driven by
 * buoyancy and vorticity confinement (Fedkiw et al. 2001), and made free of divergence by Gauss–Seidel sweeps.
 */
export interface SmokeSource {
  /** Middle and radius, in cells. */
  at: readonly [number, number, number];
  radius: number;
  /** Seconds that it gives smoke. */
  until: number;
  /** Cells a second upwards. */
  speed: number;
}

/** Cells/s² upwards of the hottest, downwards of the densest, and how much of the eddies' turning is given back (1/s). */
const BUOYANCY = 150;
const WEIGHT = 4;
const CONFINEMENT = 5;

export class Smoke {
  readonly density: Float32Array;
  /** Share of the source's heat. */
  readonly heat: Float32Array;
  private u: Float32Array;
  private v: Float32Array;
  private w: Float32Array;
  private readonly pressure: Float32Array;
  private time = 0;
  private readonly n: number;

  /** @param size cells along x, y (up) and z */
  constructor(
    readonly size: readonly [number, number, number],
    private readonly source: SmokeSource,
  ) {
    this.n = size[0] * size[1] * size[2];
    const field = (): Float32Array => new Float32Array(this.n);
    [this.density, this.heat, this.u, this.v, this.w, this.pressure] = [field(), field(), field(), field(), field(), field()];
  }

  private at(x: number, y: number, z: number): number {
    return (z * this.size[1] + y) * this.size[0] + x;
  }

  /** Goes on by `dt` seconds. */
  step(dt: number): void {
    this.feed(dt);
    this.push(dt);
    const { u, v, w } = this;
    [this.u, this.v, this.w] = [this.carried(u, dt), this.carried(v, dt), this.carried(w, dt)];
    this.balance();
    this.density.set(this.corrected(this.density, dt));
    this.heat.set(this.corrected(this.heat, dt));
    // heat is lost faster than smoke thins out
    const [thin, cool] = [Math.exp(-0.12 * dt), Math.exp(-0.55 * dt)];
    for (let i = 0; i < this.n; i++) {
      this.density[i]! *= thin;
      this.heat[i]! *= cool;
    }
    this.time += dt;
  }

  private feed(dt: number): void {
    const { source: s, size, time } = this;
    if (time > s.until) return;
    const rate = 1 - Math.exp(-6 * dt);
    for (let z = 1; z < size[2] - 1; z++)
      for (let y = 1; y < size[1] - 1; y++)
        for (let x = 1; x < size[0] - 1; x++) {
          const [a, b, c] = [x - s.at[0], y - s.at[1], z - s.at[2]];
          const r = Math.hypot(a, 1.6 * b, c) / s.radius;
          if (r >= 1) continue;
          const i = this.at(x, y, z);
          // the melt boils here and there
          const boil = 0.6 + 0.4 * Math.sin(3.1 * a + 5 * time) * Math.sin(2.3 * c - 3.7 * time + 1) * Math.sin(7 * time);
          const k = rate * boil * (1 - r * r);
          this.density[i]! += k * (1 - this.density[i]!);
          this.heat[i]! += k * (1 - this.heat[i]!);
          this.v[i]! += k * (s.speed - this.v[i]!);
          // no puff stands straight
          this.u[i]! += k * s.speed * 0.5 * Math.sin(4.3 * time + 0.5 * c + 0.9);
          this.w[i]! += k * s.speed * 0.5 * Math.sin(5.9 * time - 0.6 * a);
        }
  }

  /** Buoyancy, and the small eddies that even cells would lose. */
  private push(dt: number): void {
    const { size, u, v, w } = this;
    const turn = new Float32Array(this.n);
    const curl = [new Float32Array(this.n), new Float32Array(this.n), new Float32Array(this.n)] as const;
    const [dx, dy, dz] = [1, size[0], size[0] * size[1]];
    this.inside((i) => {
      curl[0][i] = (w[i + dy]! - w[i - dy]! - v[i + dz]! + v[i - dz]!) / 2;
      curl[1][i] = (u[i + dz]! - u[i - dz]! - w[i + dx]! + w[i - dx]!) / 2;
      curl[2][i] = (v[i + dx]! - v[i - dx]! - u[i + dy]! + u[i - dy]!) / 2;
      turn[i] = Math.sqrt(curl[0][i] ** 2 + curl[1][i] ** 2 + curl[2][i] ** 2);
    });
    this.inside((i) => {
      const a = turn[i + dx]! - turn[i - dx]!;
      const b = turn[i + dy]! - turn[i - dy]!;
      const c = turn[i + dz]! - turn[i - dz]!;
      const k = (CONFINEMENT * dt) / (Math.sqrt(a * a + b * b + c * c) + 1e-5);
      u[i]! += k * (b * curl[2][i]! - c * curl[1][i]!);
      v[i]! += k * (c * curl[0][i]! - a * curl[2][i]!) + dt * (BUOYANCY * this.heat[i]! - WEIGHT * this.density[i]!);
      w[i]! += k * (a * curl[1][i]! - b * curl[0][i]!);
    });
  }

  private inside(use: (i: number) => void): void {
    const { size } = this;
    for (let z = 1; z < size[2] - 1; z++) for (let y = 1; y < size[1] - 1; y++) for (let x = 1; x < size[0] - 1; x++) use(this.at(x, y, z));
  }

  /** A field carried along the flow for dt; back where dt is negative. */
  private carried(f: Float32Array, dt: number, ends?: { low: Float32Array; high: Float32Array }): Float32Array {
    const { u, v, w } = this;
    const [nx, ny, nz] = this.size;
    const layer = nx * ny;
    const out = new Float32Array(this.n);
    for (let z = 1; z < nz - 1; z++)
      for (let y = 1; y < ny - 1; y++)
        for (let x = 1; x < nx - 1; x++) {
          const i = z * layer + y * nx + x;
          const px = Math.max(0.5, Math.min(nx - 1.5, x - dt * u[i]!));
          const py = Math.max(0.5, Math.min(ny - 1.5, y - dt * v[i]!));
          const pz = Math.max(0.5, Math.min(nz - 1.5, z - dt * w[i]!));
          const a = Math.floor(px);
          const b = Math.floor(py);
          const c = Math.floor(pz);
          const fx = px - a;
          const fy = py - b;
          const fz = pz - c;
          const q = c * layer + b * nx + a;
          const c000 = f[q]!, c100 = f[q + 1]!, c010 = f[q + nx]!, c110 = f[q + nx + 1]!; // prettier-ignore
          const c001 = f[q + layer]!, c101 = f[q + layer + 1]!, c011 = f[q + layer + nx]!, c111 = f[q + layer + nx + 1]!; // prettier-ignore
          const near = (c000 + fx * (c100 - c000)) * (1 - fy) + (c010 + fx * (c110 - c010)) * fy;
          const far = (c001 + fx * (c101 - c001)) * (1 - fy) + (c011 + fx * (c111 - c011)) * fy;
          out[i] = near + fz * (far - near);
          if (ends) {
            ends.low[i] = Math.min(c000, c100, c010, c110, c001, c101, c011, c111);
            ends.high[i] = Math.max(c000, c100, c010, c110, c001, c101, c011, c111);
          }
        }
    return out;
  }

  /** Carried forwards, back, and corrected by half of what that changed, within the values it came from. */
  private corrected(f: Float32Array, dt: number): Float32Array {
    const ends = { low: new Float32Array(this.n), high: new Float32Array(this.n) };
    const there = this.carried(f, dt, ends);
    const back = this.carried(there, -dt);
    this.inside((i) => (there[i] = Math.max(ends.low[i]!, Math.min(ends.high[i]!, there[i]! + (f[i]! - back[i]!) / 2))));
    return there;
  }

  /** Takes out what flows together or apart; smoke leaves through all sides but the floor. */
  private balance(): void {
    const { size, u, v, w, pressure: p } = this;
    const apart = new Float32Array(this.n);
    const [dx, dy, dz] = [1, size[0], size[0] * size[1]];
    this.inside((i) => (apart[i] = (u[i + dx]! - u[i - dx]! + v[i + dy]! - v[i - dy]! + w[i + dz]! - w[i - dz]!) / 2));
    for (let sweep = 0; sweep < 20; sweep++)
      for (let z = 1; z < size[2] - 1; z++)
        for (let y = 1; y < size[1] - 1; y++)
          for (let i = this.at(1, y, z), end = i + size[0] - 2; i < end; i++) {
            const sum = p[i + dx]! + p[i - dx]! + p[i + dy]! + p[i - dy]! + p[i + dz]! + p[i - dz]! - apart[i]!;
            p[i]! += 1.6 * (sum / 6 - p[i]!);
          }
    this.inside((i) => {
      u[i]! -= (p[i + dx]! - p[i - dx]!) / 2;
      v[i]! -= (p[i + dy]! - p[i - dy]!) / 2;
      w[i]! -= (p[i + dz]! - p[i - dz]!) / 2;
    });
  }
}
