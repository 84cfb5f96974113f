/** The demo sets, each a document, its model and what else it needs. */
import type { SceneDocument } from "#core/document/schema";
import { buildCistern, cisternDocument } from "./cistern";
import { buildFoundry, foundryDocument, LAMP_IES } from "./foundry";
import { buildLighthouse, lensGobo, lighthouseDocument } from "./lighthouse";
import { buildPuff } from "./puff";
import { buildPalmHouse, palmHouseDocument } from "./palm-house";

export interface DemoFile {
  kind: "model" | "image" | "profile" | "volume" | "film";
  bytes: Uint8Array;
}

export interface DemoSet {
  id: string;
  title: string;
  description: string;
  /** Its files by name, the model first. */
  build(): Promise<Record<string, DemoFile>>;
  /** @param hashes SHA-256 of the files by name */
  document(hashes?: Record<string, string>): SceneDocument;
}

const model = async (name: string, glb: Promise<Uint8Array>): Promise<Record<string, DemoFile>> => ({
  [name]: { kind: "model", bytes: await glb },
});

export const DEMO_SETS: readonly DemoSet[] = [
  {
    id: "palm-house",
    title: "Palm house at dawn",
    description: "Low sun through iron ribs and half-drawn blinds into morning haze.",
    build: () => model("palm-house.glb", buildPalmHouse().glb("palm house")),
    document: palmHouseDocument,
  },
  {
    id: "lighthouse",
    title: "Lighthouse in sea fog",
    description: "Night on a breakwater: beams through drifting fog, stars, cliffs a kilometre off.",
    build: async () => ({
      ...(await model("lighthouse.glb", buildLighthouse().glb("lighthouse"))),
      "lens-gobo.png": { kind: "image", bytes: lensGobo() },
    }),
    document: lighthouseDocument,
  },
  {
    id: "foundry",
    title: "Bell foundry",
    description: "A pour in a brick hall: glowing metal, smoke under the roof, lamps and sun through high windows.",
    build: async () => ({
      ...(await model("foundry.glb", buildFoundry().glb("bell foundry"))),
      "pit-lamp.ies": { kind: "profile", bytes: new TextEncoder().encode(LAMP_IES) },
      ...Object.fromEntries(Object.entries(buildPuff()).map(([name, bytes]) => [name, { kind: "volume" as const, bytes }])),
    }),
    document: foundryDocument,
  },
  {
    id: "cistern",
    title: "Cistern",
    description: "A forest of columns in still water, light wells overhead and two hundred small lamps.",
    build: () => model("cistern.glb", buildCistern().glb("cistern")),
    document: cisternDocument,
  },
];
