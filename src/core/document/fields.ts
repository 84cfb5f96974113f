/** Building blocks of the scene document's schemas: bounded numbers, colours, names. */
import { z } from "zod";

/** Largest coordinate, m: a planet fits, and double precision still resolves a nanometre. */
export const FARTHEST = 1e7;

export const finite = () => z.number();
export const coordinate = () => finite().min(-FARTHEST).max(FARTHEST);
export const positive = (max: number = FARTHEST) => finite().gt(0).max(max);
export const share = () => finite().min(0).max(1);
export const vec3 = () => z.tuple([coordinate(), coordinate(), coordinate()]);
export const colour = (max = 1) => z.tuple([finite().min(0).max(max), finite().min(0).max(max), finite().min(0).max(max)]);
/** A line of text: control characters, which no title needs and lists and files would choke on, become spaces. */
export const title = () =>
  z
    .string()
    // eslint-disable-next-line no-control-regex -- these are what is taken out
    .overwrite((text) => text.replace(/\s*[\u0000-\u001f\u007f-\u009f\u2028\u2029]+\s*/g, " ").trim())
    .max(200);
export const name = () => z.string().min(1).max(120);
/** A direction of any length but zero. */
export const direction = () => vec3().refine((v) => Math.hypot(...v) > 1e-9, "must not be zero: it is a direction");
export const temperature = (usual: number) => finite().min(1000).max(40000).default(usual).describe("kelvin");
