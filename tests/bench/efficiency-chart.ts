/** A chart of efficiency by the number of workers as SVG. */

const [W, H, LEFT, BOTTOM, TOP, RIGHT] = [760, 360, 56, 44, 16, 250];
const COLOURS = ["#b5502b", "#2f6f8f", "#5c7a29"];
const DASHES = ["", "7 4", "2 4"];

/** @param series shares of their threads' time that workers are at tiles @returns the text of an SVG file */
export function efficiencyChart(series: readonly { name: string; points: readonly { n: number; share: number }[] }[]): string {
  const counts = series[0]!.points.map((p) => p.n);
  const [least, most] = [Math.min(...counts), Math.max(...counts)];
  const x = (n: number): number => LEFT + ((W - LEFT - RIGHT) * Math.log(n / least)) / Math.log(most / least);
  const y = (share: number): number => TOP + (H - BOTTOM - TOP) * (1 - share);
  const lines = [
    ...counts.map(
      (n) =>
        `<path d="M${x(n)} ${TOP}V${H - BOTTOM}" class="grid"/><text x="${x(n)}" y="${H - BOTTOM + 18}" text-anchor="middle">${n}</text>`,
    ),
    ...[0, 0.25, 0.5, 0.75, 1].map(
      (s) =>
        `<path d="M${LEFT} ${y(s)}H${W - RIGHT}" class="grid"/><text x="${LEFT - 8}" y="${y(s) + 4}" text-anchor="end">${100 * s} %</text>`,
    ),
    `<text x="${(LEFT + W - RIGHT) / 2}" y="${H - 6}" text-anchor="middle">workers of 8 threads</text>`,
  ];
  series.forEach(({ name, points }, i) => {
    const at = points.map((p) => [x(p.n).toFixed(1), y(p.share).toFixed(1)] as const);
    lines.push(
      `<path d="M${at.map((p) => p.join(" ")).join("L")}" fill="none" stroke="${COLOURS[i]}" stroke-width="2" stroke-dasharray="${DASHES[i]}"/>`,
      ...at.map(([cx, cy]) => `<circle cx="${cx}" cy="${cy}" r="3" fill="${COLOURS[i]}"/>`),
      `<path d="M${W - RIGHT + 14} ${TOP + 14 + 22 * i}h26" stroke="${COLOURS[i]}" stroke-width="2" stroke-dasharray="${DASHES[i]}"/>`,
      `<text x="${W - RIGHT + 46}" y="${TOP + 18 + 22 * i}">${name}</text>`,
    );
  });
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${W} ${H}" font-family="sans-serif" font-size="12" fill="#333">
<style>.grid{stroke:#ddd}</style>
<rect width="${W}" height="${H}" fill="#fff"/>
${lines.join("\n")}
</svg>
`;
}
