/** The lens of a plate as a document's: where it stands, whether the document looks through it, and goes along where the plate is changed. */
import { sunDirection } from "../math/vectors";
import type { Plate } from "./plate";
import type { SceneDocument } from "./schema";

type Camera = SceneDocument["camera"];

/** Metres before the lens that it is aimed at. */
const AIM = 10;

/** The lens of a plate as a document's: sharp everywhere. */
export function plateCamera(plate: Plate, like: Camera): Camera {
  const ahead = sunDirection(plate.heading, plate.tilt);
  return {
    ...like,
    kind: "perspective",
    position: [...plate.position],
    target: plate.position.map((p, k) => p + AIM * ahead[k]!) as Camera["target"],
    roll: plate.roll,
    fieldOfView: plate.fieldOfView,
    aperture: 0,
    motion: null,
  };
}

/** Shares of a metre and degrees by which a lens may be off and still be the plate's: less than any hand moves it by. */
const SAME = 1e-6;

/** Whether the document's lens is that of its plate, so that its pixels are the plate's. */
export function seesPlate(doc: Pick<SceneDocument, "camera" | "plate">): boolean {
  const { plate, camera } = doc;
  if (!plate || camera.kind !== "perspective" || camera.aperture !== 0) return false;
  const own = plateCamera(plate, camera);
  const near = (a: readonly number[], b: readonly number[]): boolean => a.every((v, k) => Math.abs(v - b[k]!) <= SAME);
  const aim = (c: Camera): number[] => {
    const way = c.target.map((t, k) => t - c.position[k]!);
    return way.map((v) => v / Math.hypot(...way));
  };
  return (
    near([...own.position, own.roll, own.fieldOfView], [...camera.position, camera.roll, camera.fieldOfView]) && near(aim(own), aim(camera))
  );
}

/** Whether a frame has the shape of a picture, to a pixel. */
export const ofItsShape = (
  [width, height]: readonly [number, number],
  picture: { readonly width: number; readonly height: number },
): boolean => Math.abs(width * picture.height - height * picture.width) <= Math.max(picture.width, picture.height);

/** A document with another plate, whose lens goes along where it was the plate's. */
export function withPlate(doc: SceneDocument, plate: Plate): SceneDocument {
  return { ...doc, plate, camera: !doc.plate || seesPlate(doc) ? plateCamera(plate, doc.camera) : doc.camera };
}
