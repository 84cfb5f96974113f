/** What commands are called with, read and checked. */
import { parseArgs, type ParseArgsConfig } from "node:util";
import { InputError } from "#core/errors";

/** @throws InputError for one that is not known */
export function options<T extends NonNullable<ParseArgsConfig["options"]>>(args: string[], config: T) {
  try {
    return parseArgs({ args, options: config, allowPositionals: true, strict: true });
  } catch (error) {
    throw new InputError((error as Error).message);
  }
}

export function whole(text: string | undefined, name: string, min: number, max: number): number | undefined {
  if (text === undefined) return undefined;
  const v = Number(text);
  if (!/^\d+$/.test(text) || v < min || v > max) throw new InputError(`--${name} ${text}: must be a whole number from ${min} to ${max}`);
  return v;
}

export function oneOf<T extends string>(text: string | undefined, name: string, allowed: readonly T[]): T | undefined {
  if (text === undefined) return undefined;
  if (!allowed.includes(text as T)) throw new InputError(`--${name} ${text}: must be one of ${allowed.join(", ")}`);
  return text as T;
}

/** The moment asked for, if one was. */
export function moment(text: string | undefined): { at?: number } {
  if (text === undefined) return {};
  const at = Number(text);
  if (text.trim() === "" || !(Math.abs(at) <= 1e6)) throw new InputError(`--at ${text}: must be a number of seconds`);
  return { at };
}

/** A number within limits, if one is said. @throws InputError */
export function number(text: string | undefined, name: string, what: string, fits: (v: number) => boolean): number | undefined {
  if (text === undefined) return undefined;
  const v = Number(text);
  if (text.trim() === "" || !fits(v)) throw new InputError(`--${name} ${text}: must be ${what}`);
  return v;
}

/** So many numbers between commas. @throws InputError */
export function numbersOf(text: string, name: string, count: number): number[] {
  const all = text.split(",").map((t) => (t.trim() === "" ? NaN : Number(t)));
  if (all.length !== count || !all.every(Number.isFinite))
    throw new InputError(`--${name} ${text}: must be ${count} numbers between commas`);
  return all;
}
