/** Tables of trials: what they save, and what they change. */
import { useState, type ReactNode } from "react";
import { formatNumber } from "#core/document/quantities";
import type { Advice } from "#engine/advise";

/** A column: its heading, what it says, and what rows are ordered by. */
export interface Column<R> {
  key: string;
  label: string;
  tooltip: string;
  value(row: R): number | string;
  show(row: R): ReactNode;
}

/** A table whose columns order it; a click on the same heading again turns the order about. */
export function Sortable<R>(p: {
  label: string;
  columns: readonly Column<R>[];
  rows: readonly R[];
  keyOf(row: R): string;
  end(row: R): ReactNode;
}) {
  const [by, setBy] = useState<{ key: string; down: boolean } | null>(null);
  const column = by && p.columns.find((c) => c.key === by.key);
  const compare = (a: number | string, b: number | string): number => (a < b ? -1 : a > b ? 1 : 0);
  const rows = column ? [...p.rows].sort((a, b) => (by.down ? -1 : 1) * compare(column.value(a), column.value(b))) : p.rows;
  return (
    <table aria-label={p.label} className="figures w-full text-xs">
      <thead>
        <tr className="text-left whitespace-nowrap [&>th]:pr-3">
          {p.columns.map((c) => (
            <th key={c.key} className="font-normal" aria-sort={by?.key === c.key ? (by.down ? "descending" : "ascending") : "none"}>
              <button
                className="link link-hover quiet"
                title={c.tooltip}
                onClick={() => setBy((was) => ({ key: c.key, down: was?.key === c.key && !was.down }))}
              >
                {c.label}
                {by?.key === c.key && (by.down ? " ↓" : " ↑")}
              </button>
            </th>
          ))}
          <th />
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={p.keyOf(row)} className="[&>td]:py-0.5 [&>td]:pr-3">
            {p.columns.map((c) => (
              <td key={c.key} className={c.key === "words" ? "" : "whitespace-nowrap"}>
                {c.show(row)}
              </td>
            ))}
            <td className="text-right whitespace-nowrap">{p.end(row)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

export const savingText = ({ time, error }: Advice): string => `×${formatNumber(1 / time, 3)} ± ${formatNumber(100 * error, 1)} %`;
export const seenText = ({ seen }: Advice): string => `${formatNumber(seen.mean, 2)} ± ${formatNumber(seen.error, 1)}`;
export const energyText = ({ energy, energyError }: Advice): string => {
  const share = 100 * energy;
  return `${share > 0 ? "−" : "+"}${formatNumber(Math.abs(share), 2)} ± ${formatNumber(100 * energyError, 1)} %`;
};
