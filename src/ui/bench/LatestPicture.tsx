/** The picture by which the shelf shows the project. */
import { contextOf } from "../shared/canvas";
import { useEffect } from "react";
import { API, call } from "#api/contract";
import { request, upload } from "../shared/api";
import { useBench, useSession } from "./model/context";

const LATEST_WIDTH = 640;

/** Sends the latest picture to the shelf once it has settled; draws nothing. */
export function LatestPicture() {
  const { projectId, session, proofs } = useBench();
  const worth = useSession((s) => (s.phase === "done" ? 1e9 : Math.floor((s.statistics?.samples ?? 0) / 16)));
  useEffect(() => {
    if (worth < 1) return;
    const timer = setTimeout(() => {
      void (async () => {
        // a window of the frame is not the project's picture, nor is what has become one meanwhile
        if (session.live()?.frame) return;
        const still = await session.cleanedSnapshot();
        if (still.film.frame) return;
        const png = await session.worker.png(still.film, "beauty", still.document, {});
        const small = await shrink(new Blob([png as Uint8Array<ArrayBuffer>], { type: "image/png" }));
        const { sha256 } = await upload("picture", small);
        await call(request, API.setPicture, { id: projectId }, { picture: sha256 });
      })().catch(() => undefined); // the shelf keeps the older picture
    }, 800);
    return () => clearTimeout(timer);
  }, [worth, session, projectId, proofs]);
  return null;
}

async function shrink(png: Blob): Promise<Blob> {
  const image = await createImageBitmap(png);
  const scale = Math.min(1, LATEST_WIDTH / image.width);
  const canvas = new OffscreenCanvas(Math.max(1, Math.round(image.width * scale)), Math.max(1, Math.round(image.height * scale)));
  const context = contextOf(canvas);
  context.imageSmoothingQuality = "high";
  context.drawImage(image, 0, 0, canvas.width, canvas.height);
  return canvas.convertToBlob({ type: "image/png" });
}
