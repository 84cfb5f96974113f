/** Composes bands of rows of a plan whose pictures it shares with others. */
import { expose, transfer } from "comlink";
import { composeRows, type Plan } from "#core/compose/compose";

let plan: Plan | null = null;

const worker = {
  take(next: Plan): void {
    plan = next;
  },
  rows(y0: number, y1: number): Float32Array {
    const rows = composeRows(plan!, y0, y1);
    return transfer(rows, [rows.buffer]);
  },
};
export type RowsWorker = typeof worker;
expose(worker);
