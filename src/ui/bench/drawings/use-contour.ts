/** Outlines of the meshes that bound media, made beside the page. */
import { useEffect, useMemo, useState } from "react";
import { meshKey } from "#core/scene/keys";
import type { Eye } from "#core/scene/contour";
import type { Region } from "#core/document/air";
import type { SceneDocument } from "#core/document/schema";
import { Latest } from "../../shared/latest";
import { useBench } from "../model/context";

/** Outlines by object, of those that are asked for; one that has no surface has none. @param eye null: as seen along the three axes together */
export function useContours(doc: SceneDocument, regions: readonly Region[], eye: Eye | null): Readonly<Record<string, number[]>> {
  const { session } = useBench();
  const [found, setFound] = useState<Readonly<Record<string, number[]>>>({});
  const asked = useMemo(
    () =>
      new Latest(async ([given, objects, from]: [SceneDocument, string[], Eye | null]) => {
        const lines = await Promise.all(objects.map((o) => session.worker.contour(given, o, from).catch(() => [])));
        setFound(Object.fromEntries(objects.map((o, i) => [o, lines[i]!])));
      }),
    [session],
  );
  const objects = [...new Set(regions.flatMap((r) => (r.kind === "mesh" ? [r.object] : [])))];
  const key = objects.length > 0 ? JSON.stringify([meshKey(doc), objects, eye]) : "";
  useEffect(() => {
    if (objects.length > 0) asked.ask([doc, objects, eye]);
    else setFound({});
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what outlines depend on is in the key
  }, [key, asked]);
  return found;
}

/** Where the lens of a document looks from. */
export function eyeOf({ camera }: SceneDocument, forward: readonly [number, number, number]): Eye {
  return camera.kind === "perspective" ? { from: camera.position } : { along: forward };
}
