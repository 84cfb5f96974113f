/** A chart of costs as SVG: both axes logarithmic, each series relative to its own first value. */

export interface Series {
  name: string;
  points: { n: number; cost: number }[];
}

const [W, H, LEFT, BOTTOM, TOP, RIGHT] = [720, 400, 56, 44, 16, 190];
const COLOURS = ["#b5502b", "#2f6f8f", "#5c7a29", "#7a4b8c"];
const DASHES = ["", "7 4", "2 4", "10 4 2 4"];

/** @returns the text of an SVG file; the grey line is cost that grows as the work does */
export function chart(series: readonly Series[]): string {
  const relative = series.map((s) => ({
    name: s.name,
    points: s.points.map((p) => ({ x: p.n / s.points[0]!.n, y: p.cost / s.points[0]!.cost })),
  }));
  const most = Math.max(...relative.flatMap((s) => s.points.map((p) => p.x)));
  const high = 100;
  const x = (v: number): number => LEFT + ((W - LEFT - RIGHT) * Math.log10(v)) / Math.log10(most);
  const y = (v: number): number => H - BOTTOM - ((H - BOTTOM - TOP) * Math.log10(v / 0.5)) / Math.log10(high / 0.5);
  const decades = (to: number): number[] => Array.from({ length: Math.floor(Math.log10(to)) + 1 }, (_, i) => 10 ** i);
  const lines = [
    ...decades(most).map(
      (v) =>
        `<path d="M${x(v)} ${TOP}V${H - BOTTOM}" class="grid"/><text x="${x(v)}" y="${H - BOTTOM + 18}" text-anchor="middle">×${v}</text>`,
    ),
    ...decades(high).map(
      (v) => `<path d="M${LEFT} ${y(v)}H${W - RIGHT}" class="grid"/><text x="${LEFT - 8}" y="${y(v) + 4}" text-anchor="end">×${v}</text>`,
    ),
    `<path d="M${x(1)} ${y(1)}L${x(high)} ${y(high)}" class="even"/>`,
    `<text x="${(LEFT + W - RIGHT) / 2}" y="${H - 6}" text-anchor="middle">work</text>`,
    `<text x="14" y="${(H - BOTTOM + TOP) / 2}" text-anchor="middle" transform="rotate(-90 14 ${(H - BOTTOM + TOP) / 2})">cost of a sample</text>`,
  ];
  relative.forEach((s, i) => {
    const at = s.points.map((p) => `${x(p.x).toFixed(1)} ${y(Math.max(0.5, p.y)).toFixed(1)}`);
    lines.push(
      `<path d="M${at.join("L")}" fill="none" stroke="${COLOURS[i]}" stroke-width="2" stroke-dasharray="${DASHES[i]}"/>`,
      ...at.map((p) => `<circle cx="${p.split(" ")[0]}" cy="${p.split(" ")[1]}" r="3" fill="${COLOURS[i]}"/>`),
      `<path d="M${W - RIGHT + 14} ${TOP + 14 + 22 * i}h26" stroke="${COLOURS[i]}" stroke-width="2" stroke-dasharray="${DASHES[i]}"/>`,
      `<text x="${W - RIGHT + 46}" y="${TOP + 18 + 22 * i}">${s.name}</text>`,
    );
  });
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${W} ${H}" font-family="sans-serif" font-size="12" fill="#333">
<style>.grid{stroke:#ddd}.even{stroke:#aaa;stroke-dasharray:1 5}</style>
<rect width="${W}" height="${H}" fill="#fff"/>
${lines.join("\n")}
</svg>
`;
}
