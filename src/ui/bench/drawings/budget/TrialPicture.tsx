/** A trial's picture; resting on it shows how far it is from another. */
import { useEffect, useRef, useState } from "react";
import { developColours } from "#core/film/develop";
import type { SceneDocument } from "#core/document/schema";
import type { TrialPicture as Picture } from "#engine/advise";
import { contextOf } from "../../../shared/canvas";

/** Paints a small picture, or its difference from another of the same size. */
export function paintTrial(
  canvas: HTMLCanvasElement | OffscreenCanvas,
  picture: Picture,
  doc: SceneDocument,
  against: Picture | null,
): void {
  canvas.width = picture.width;
  canvas.height = picture.height;
  const image = new ImageData(picture.width, picture.height);
  const other = against?.beauty.length === picture.beauty.length ? against.beauty : null;
  developColours(other ? picture.beauty.map((v, i) => Math.abs(v - other[i]!)) : picture.beauty, doc.film, image.data);
  contextOf(canvas as HTMLCanvasElement).putImageData(image, 0, 0);
}

/** @param p.from what the other picture is, in words */
export function TrialPicture(p: { picture: Picture; doc: SceneDocument; against: Picture | null; from: string; label: string }) {
  const { picture, doc, against, from, label } = p;
  const canvas = useRef<HTMLCanvasElement>(null);
  const [difference, setDifference] = useState(false);
  useEffect(() => paintTrial(canvas.current!, picture, doc, difference ? against : null), [picture, doc, against, difference]);
  return (
    <canvas
      ref={canvas}
      role="img"
      aria-label={difference ? `${label}: difference` : label}
      title={against ? `Resting here shows the difference from ${from}.` : ""}
      className="h-7 w-auto"
      onPointerEnter={() => setDifference(against !== null)}
      onPointerLeave={() => setDifference(false)}
    />
  );
}
