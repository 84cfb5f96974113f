/** Measurements of the validation suite, kept for the report where one is being made (scripts/validate.mjs). */
import { appendFileSync } from "node:fs";
import { expect } from "vitest";

export interface Measurement {
  case: string;
  quantity: string;
  expected: number;
  source: string;
  measured: number;
  /** Standard error of the measurement; 0 where it has no noise. */
  error: number;
}

/**
 * Holds a measurement against its expected value: within `errors` standard errors plus an allowance for what
 * is known to be inexact (a table's resolution, a quadrature's).
 */
export function holds(m: Measurement, errors = 4, allowance = 0): void {
  const passed = Math.abs(m.measured - m.expected) <= errors * m.error + allowance;
  const file = process.env.FUMARIUM_RECORD;
  if (file) appendFileSync(file, `${JSON.stringify({ ...m, errors, allowance, passed })}\n`);
  expect(Math.abs(m.measured - m.expected), `${m.case}: ${m.quantity} is ${m.measured}, expected ${m.expected}`).toBeLessThanOrEqual(
    errors * m.error + allowance,
  );
}
