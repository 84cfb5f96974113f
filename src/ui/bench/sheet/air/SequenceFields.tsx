/** A grid that is another file from frame to frame. */
import { gridSchema, type VolumeGrid } from "#core/document/air";
import { tintChannels } from "#core/scene/tint";
import type { StoredAsset } from "../../model/assets";
import { Num } from "../../../shared/Num";
import { Switch } from "../../../shared/controls";
import { TimeField } from "../TimeField";

type Sequence = NonNullable<VolumeGrid["sequence"]>;

/** A medium's grid with other files: one, or frames; the channel of densities is one that they have. */
export function gridOf(had: VolumeGrid | null, stored: readonly StoredAsset[]): VolumeGrid {
  const [first] = stored;
  if (!first) throw new Error("no file was given");
  const names = first.grids?.map((g) => g.name) ?? [];
  const has = (name: string | undefined): boolean => name !== undefined && names.includes(name);
  const channel = has(had?.channel) ? had!.channel : has("density") ? "density" : (names[0] ?? "density");
  const lacks = stored.find((s) => !s.grids?.some((g) => g.name === channel));
  if (lacks) throw new Error(`${lacks.asset.uri}: has no channel "${channel}" as the first frame has`);
  const level = first.grids?.find((g) => g.name === channel && g.kind === "level set");
  const sequence = stored.length > 1 ? { ...(had?.sequence ?? {}), frames: stored.map((s) => s.name) } : null;
  // the largest of all frames, so that density does not pump
  const most = Math.max(...stored.map((s) => s.grids?.find((g) => g.name === channel)?.max ?? 0));
  return gridSchema.parse({
    ...(had ?? {}),
    asset: first.name,
    channel,
    sequence,
    // distances of a level set become fog that is full three voxels within its surface
    low: 0,
    high: level ? -3 * Math.max(...level.voxelSize) : sequence ? most || 1 : null,
    temperature: has(had?.temperature?.channel) ? had!.temperature : null,
    tint: had?.tint && tintChannels(had.tint).every(has) ? had.tint : null,
  });
}

export function SequenceFields({ sequence: s, onChange }: { sequence: Sequence; onChange(s: Sequence): void }) {
  return (
    <>
      <Num
        label="Rate"
        unit="/s"
        value={s.rate}
        min={0.01}
        max={240}
        useful={[1, 60]}
        step={1}
        reset={24}
        tooltip="Frames per second."
        onChange={(rate) => onChange({ ...s, rate })}
      />
      <Switch
        label="Loop"
        on={s.loop}
        tooltip="The sequence starts again after its last frame; otherwise the last frame stays."
        onChange={(loop) => onChange({ ...s, loop })}
      />
      <Switch
        label="Interpolate frames"
        on={s.between}
        tooltip="Blends the voxels of two frames at times between them, so that slow motion does not stutter."
        onChange={(between) => onChange({ ...s, between })}
      />
      <TimeField />
    </>
  );
}
