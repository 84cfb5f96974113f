/** The demo sets, each a document and its model. */
import type { SceneDocument } from "#core/document/schema";
import { buildPalmHouse, palmHouseDocument } from "./palm-house";

export interface DemoSet {
  id: string;
  title: string;
  description: string;
  /** File name of the model beside the document. */
  model: string;
  build(): Promise<Uint8Array>;
  document(sha256?: string): SceneDocument;
}

export const DEMO_SETS: readonly DemoSet[] = [
  {
    id: "palm-house",
    title: "Palm house at dawn",
    description: "Low sun through iron ribs and half-drawn blinds into morning haze.",
    model: "palm-house.glb",
    build: () => buildPalmHouse().glb("palm house"),
    document: palmHouseDocument,
  },
];
