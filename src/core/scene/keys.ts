/** What compiled geometry depends on, as keys: equal keys, equal buffers. */
import type { VolumeGrid } from "../document/air";
import { usedAssets } from "../document/assets";
import type { SceneDocument } from "../document/schema";
import { gridFrames } from "../document/sequence";
import { tintChannels } from "./tint";

/** Names of the objects whose surfaces bound media. */
export function regionObjects(doc: SceneDocument): string[] {
  return [...new Set(doc.air.flatMap((m) => (m.region.kind === "mesh" ? [m.region.object] : [])))].sort();
}

/** Objects that media need distances to, with how far (m): a power of two, so that a curve is dragged without a new grid. */
export function distanceObjects(doc: SceneDocument): Map<string, number> {
  const reach = new Map<string, number>();
  for (const m of doc.air) {
    if (m.proximity)
      reach.set(
        m.proximity.object,
        Math.max(reach.get(m.proximity.object) ?? 0, 2 ** Math.ceil(Math.log2(Math.max(m.proximity.curve.at(-1)![0], 1e-3)))),
      );
    if (m.region.kind === "mesh" && m.edge > 0) reach.set(m.region.object, reach.get(m.region.object) ?? 0);
  }
  return reach;
}

/** Channels of volume files that media need, with the grids they are of. */
export function gridChannels(doc: SceneDocument): { grid: VolumeGrid; channel: string }[] {
  return doc.air.flatMap(({ grid }) => (grid ? channelsOf(grid).map((channel) => ({ grid, channel })) : []));
}
function channelsOf({ channel, temperature, tint }: VolumeGrid): string[] {
  return [channel, ...(temperature ? [temperature.channel] : []), ...(tint ? tintChannels(tint) : [])];
}

const hashOf = ({ assets }: SceneDocument, name: string): string => assets[name]?.sha256 ?? assets[name]?.uri ?? name;

/** What the geometry of a document depends on, as a key: equal keys, equal geometry. */
export const geometryKey = (doc: SceneDocument): string => meshKey(doc) + timeVaryingKey(doc);

/** What triangles and trees depend on: the slow part. */
export function meshKey(doc: SceneDocument): string {
  const { materials } = doc;
  // locks and labels are for the interface
  const objects = doc.objects.map(({ locked: _, ...o }) =>
    o.kind === "model" ? { ...o, parts: Object.entries(o.parts).map(([path, { locked: __, label: ___, ...part }]) => [path, part]) } : o,
  );
  return JSON.stringify({
    objects,
    materials,
    regions: regionObjects(doc),
    distances: [...distanceObjects(doc)],
    models: doc.objects.map((o) => (o.kind === "model" ? hashOf(doc, o.asset) : null)),
    plate: doc.plate && [doc.plate, hashOf(doc, doc.plate.picture), hashOf(doc, doc.plate.depth)],
  });
}

/** What grids, pictures and profiles depend on. */
function timeVaryingKey(doc: SceneDocument): string {
  return JSON.stringify([
    gridChannels(doc).map(({ grid, channel }) => {
      const { from, to, share } = gridFrames(grid, doc.time);
      return [hashOf(doc, from), to && hashOf(doc, to), share, channel, from, to];
    }),
    [...usedAssets(doc)].flatMap(([name, use]) => (use === "picture" || use === "profile" ? [name, hashOf(doc, name)] : [])),
  ]);
}
