/** A picture made elsewhere, with its depth and its lens, as the set: what the document says of it. */
import { z } from "zod";
import { finite, name, positive, vec3 } from "./fields";

/** Name of the object that stands for the surface of a plate among others' models; no asset has it. */
export const PLATE_SURFACE = "";

const layer = () => z.string().max(255).default("");

export const plateSchema = z
  .strictObject({
    picture: name().describe("key into assets: a picture whose light is what the lens sees (OpenEXR, Radiance HDR, PNG, JPEG)"),
    layer: layer().describe("layer of its colours, where it has several"),
    depth: name().describe("key into assets: the picture that holds the depth; may be the same"),
    depthLayer: layer().describe("layer of the depth"),
    along: z.enum(["axis", "ray"]).default("axis").describe("depth along the axis of the lens, or along the ray of each pixel"),
    range: z
      .tuple([finite().min(0).max(1e9), finite().min(0).max(1e9)])
      .refine(([near, far]) => near !== far, "near and far must differ")
      .nullable()
      .default(null)
      .describe("units that 0 and 1 stand for, where depth is in whole numbers; null: its numbers are units"),
    inverted: z.boolean().default(false).describe("1 stands for near; without a range: numbers are one over depth"),
    unit: positive(1e6).default(1).describe("metres that a unit has"),
    sky: positive(1e9).nullable().default(null).describe("units from which on nothing is there; null: what is endless alone"),
    light: z.int().min(-20).max(30).default(12).describe("luminance that 1 stands for, as a power of two of 1 cd/m²"),
    position: vec3().default([0, 1.6, 0]).describe("m, of the lens"),
    heading: finite().min(-360).max(360).default(0).describe("degrees, 0 along -z, 90 along +x"),
    tilt: finite().min(-89.99).max(89.99).default(0).describe("degrees the lens looks up by"),
    roll: finite().min(-180).max(180).default(0).describe("degrees, as of a camera"),
    fieldOfView: finite().min(0.1).max(170).default(45).describe("vertical angle, degrees"),
    edges: z.boolean().default(true).describe("parts pixels that an edge crosses into what is before and behind it, by their colours"),
    across: z.int().min(16).max(4096).default(640).describe("places across the picture that the surface in the way of light goes through"),
  })
  .describe("a picture made elsewhere: what the lens sees first, exact per pixel; an object of kind plate is its surface");

export type Plate = z.infer<typeof plateSchema>;
