/** Densities from a file (OpenVDB), and a medium baked into one. */
import { useEffect, useState } from "react";
import { gridSchema, type VolumeGrid } from "#core/document/air";
import { gridFrames } from "#core/scene/sequence";
import { tintChannels } from "#core/scene/tint";
import { CurveField } from "../../shared/CurveField";
import type { StoredAsset } from "../lights/assets";
import { TimeField } from "../TimeField";
import { TintFields } from "./TintFields";
import { formatNumber, lengthText } from "#core/document/quantities";
import { saveFile } from "../../shared/save-file";
import { useBench, useDocument } from "../context";
import { AssetField } from "../lights/AssetField";
import { Num } from "../Num";
import type { VolumeContent } from "../scene-worker";
import { Heading, Said, Select, Switch } from "../Sheet";
import { withMedium } from "../store";
import type { MediumFields } from "./reach";

type Sequence = NonNullable<VolumeGrid["sequence"]>;

export function GridFields({ medium, index, reach, set }: MediumFields) {
  const { session, store } = useBench();
  const doc = useDocument();
  const { grid } = medium;
  const [content, setContent] = useState<VolumeContent | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  // of a sequence, the frame at hand
  const at = grid ? gridFrames(grid, doc.time).from : null;
  const hash = at ? (doc.assets[at]?.sha256 ?? null) : null;
  useEffect(() => {
    setProblem(null);
    if (!at) {
      setContent(null);
      return;
    }
    let current = true;
    session.worker
      .volumeOf(doc, at)
      .then((c) => current && setContent(c))
      .catch((e: unknown) => current && setProblem((e as Error).message));
    return () => {
      current = false;
    };
    // another file is another hash
  }, [hash, session]);
  const change = (c: Partial<VolumeGrid>): void => {
    if (grid) set({ grid: { ...grid, ...c } });
  };
  const names = content?.grids.map((g) => g.name) ?? (grid ? [grid.channel] : []);
  const shown = content?.grids.find((g) => g.name === grid?.channel);
  return (
    <>
      <Heading>Grid</Heading>
      <AssetField
        several
        label="Volume"
        kind="volume"
        accept=".vdb"
        value={grid?.asset ?? null}
        {...(grid?.sequence ? { words: `${grid.sequence.frames.length} frames` } : {})}
        teach="Sparse densities from an OpenVDB file take the place of even air. Several files are frames in the order of their names."
        onTake={(d, _, __, stored) => withMedium(d, index, { grid: gridOf(grid, stored), region: { kind: "everywhere" }, edge: 0 })}
      />
      {problem && (
        <p role="alert" className="text-xs text-error">
          {problem}
        </p>
      )}
      {grid && (
        <>
          <Select
            label="Density from"
            value={grid.channel}
            options={[...new Set([...names, grid.channel])].map((n) => [n, n] as const)}
            teach="Channel of the file that holds densities."
            onChange={(channel) =>
              change({ channel, low: 0, high: grid.sequence ? (content?.grids.find((g) => g.name === channel)?.most ?? 1) : null })
            }
          />
          {content && !shown && (
            <p role="alert" className="text-xs text-warning">
              The file has no channel of this name; it has {names.join(", ")}.
            </p>
          )}
          {shown && <Facts grid={shown} scale={grid.scale} />}
          {grid.sequence && <SequenceFields sequence={grid.sequence} onChange={(sequence) => change({ sequence })} />}
          <Num
            label="Empty at"
            value={grid.low}
            min={-1e9}
            max={1e9}
            useful={[shown?.least ?? 0, shown?.most ?? 1]}
            step={((shown?.most ?? 1) - (shown?.least ?? 0)) / 200 || 0.01}
            reset={0}
            teach="Value of the channel that is clear air."
            onChange={(low) => low !== (grid.high ?? shown?.most) && change({ low })}
          />
          <Num
            label="Full at"
            value={grid.high ?? shown?.most ?? 1}
            min={-1e9}
            max={1e9}
            useful={[shown?.least ?? 0, shown?.most ?? 1]}
            step={((shown?.most ?? 1) - (shown?.least ?? 0)) / 200 || 0.01}
            reset={shown?.most ?? 1}
            teach="Value that is air of the whole density."
            onChange={(high) => high !== grid.low && change({ high })}
          />
          <Switch
            label="Bent by a curve"
            on={grid.curve !== null}
            teach="A curve says how dense the air is at each value between empty and full."
            onChange={(on) => change({ curve: on ? [[0, 0], [0.5, 0.5], [1, 1]] : null })} // prettier-ignore
          />
          {grid.curve && (
            <CurveField
              label="Density by value"
              value={grid.curve}
              ends={[formatNumber(grid.low, 3), formatNumber(grid.high ?? shown?.most ?? 1, 3)]}
              teach="Left what is empty, right what is full; up is denser. Click to add a point."
              onChange={(curve) => change({ curve })}
              onGesture={(active) => store.gesture(active)}
            />
          )}
          <TintFields grid={grid} grids={content?.grids ?? []} onChange={(tint) => change({ tint })} />
          {(["x", "y", "z"] as const).map((axis, k) => (
            <Num
              key={axis}
              label={`At ${axis}`}
              unit="m"
              quantity="length"
              value={grid.position[k]!}
              min={-1e5}
              max={1e5}
              useful={[-reach / 2, reach / 2]}
              step={reach / 800}
              reset={0}
              teach="Where the file's origin lies."
              onChange={(v) => change({ position: grid.position.map((o, i) => (i === k ? v : o)) as [number, number, number] })}
            />
          ))}
          {(["x", "y", "z"] as const).map((axis, k) => (
            <Num
              key={`turn ${axis}`}
              label={`Turned ${axis}`}
              unit="°"
              quantity="angle"
              value={grid.rotation[k]!}
              min={-360}
              max={360}
              useful={[-180, 180]}
              step={1}
              reset={0}
              teach="Turned about this axis."
              onChange={(v) => change({ rotation: grid.rotation.map((o, i) => (i === k ? v : o)) as [number, number, number] })}
            />
          ))}
          <Num
            logarithmic
            label="Scale"
            unit="×"
            value={grid.scale}
            min={1e-4}
            max={1e4}
            useful={[0.01, 100]}
            reset={1}
            teach="The file's metres against the scene's."
            onChange={(scale) => change({ scale })}
          />
          <Switch
            label="Glows by heat"
            on={grid.heat !== null}
            teach="A channel of temperatures makes the air glow as soot does: a black body's light times what it absorbs."
            onChange={(on) =>
              change({ heat: on ? gridSchema.shape.heat.parse({ channel: names.find((n) => /temp|heat/i.test(n)) ?? names[0] }) : null })
            }
          />
          {grid.heat && (
            <>
              <Select
                label="Heat from"
                value={grid.heat.channel}
                options={[...new Set([...names, grid.heat.channel])].map((n) => [n, n] as const)}
                teach="Channel of the file that holds temperatures."
                onChange={(channel) => change({ heat: { ...grid.heat!, channel } })}
              />
              <Num
                logarithmic
                label="Kelvin a unit"
                value={grid.heat.scale}
                min={1e-3}
                max={1e6}
                useful={[0.1, 5000]}
                reset={1}
                teach="Temperature that one unit of the channel stands for."
                onChange={(scale) => change({ heat: { ...grid.heat!, scale } })}
              />
              <Num
                label="Kelvin at 0"
                unit="K"
                value={grid.heat.offset}
                min={-1e6}
                max={1e6}
                useful={[0, 2000]}
                step={10}
                reset={0}
                teach="Temperature where the channel is 0."
                onChange={(offset) => change({ heat: { ...grid.heat!, offset } })}
              />
              <Num
                logarithmic
                label="Glow"
                unit="×"
                value={grid.heat.strength}
                min={1e-6}
                max={1e6}
                useful={[0.01, 100]}
                reset={1}
                teach="1 is soot's own light."
                onChange={(strength) => change({ heat: { ...grid.heat!, strength } })}
              />
            </>
          )}
          <button className="link link-hover text-xs" onClick={() => set({ grid: null })}>
            Even air again
          </button>
        </>
      )}
      <Bake name={medium.name} index={index} />
    </>
  );
}

/** A medium's grid with other files: one, or frames; the channel of densities is one that they have. */
function gridOf(had: VolumeGrid | null, stored: readonly StoredAsset[]): VolumeGrid {
  const names = stored[0]!.grids?.map((g) => g.name) ?? [];
  const has = (name: string | undefined): boolean => name !== undefined && names.includes(name);
  const channel = has(had?.channel) ? had!.channel : has("density") ? "density" : (names[0] ?? "density");
  const lacks = stored.find((s) => !s.grids?.some((g) => g.name === channel));
  if (lacks) throw new Error(`${lacks.asset.uri}: has no channel "${channel}" as the first frame has`);
  const sequence = stored.length > 1 ? { ...(had?.sequence ?? {}), frames: stored.map((s) => s.name) } : null;
  // the largest of all frames, so that density does not pump
  const most = Math.max(...stored.map((s) => s.grids?.find((g) => g.name === channel)?.most ?? 0));
  return gridSchema.parse({
    ...(had ?? {}),
    asset: stored[0]!.name,
    channel,
    sequence,
    low: 0,
    high: sequence ? most || 1 : null,
    heat: has(had?.heat?.channel) ? had!.heat : null,
    tint: had?.tint && tintChannels(had.tint).every(has) ? had.tint : null,
  });
}

function SequenceFields({ sequence: s, onChange }: { sequence: Sequence; onChange(s: Sequence): void }) {
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
        teach="Frames a second."
        onChange={(rate) => onChange({ ...s, rate })}
      />
      <Switch
        label="Begins anew"
        on={s.loop}
        teach="Past its last frame the sequence begins anew; else the last one stays."
        onChange={(loop) => onChange({ ...s, loop })}
      />
      <Switch
        label="Between frames"
        on={s.between}
        teach="At times between two frames the voxels lie between theirs, so that slow motion does not stutter."
        onChange={(between) => onChange({ ...s, between })}
      />
      <TimeField />
    </>
  );
}

function Facts({ grid: g, scale }: { grid: VolumeContent["grids"][number]; scale: number }) {
  const size = [0, 1, 2].map((k) => lengthText((g.bounds[k + 3]! - g.bounds[k]!) * scale)).join(" × ");
  const top = Math.max(...g.histogram, 1);
  return (
    <>
      <Said label="It spans">
        <span className="figures text-xs quiet">{size}</span>
      </Said>
      <Said label="Voxels">
        <span className="figures text-xs quiet">
          {g.voxels.toLocaleString("en")} of {lengthText(g.voxelSize[0] * scale)}
          {g.kind ? `, ${g.kind}` : ""}
        </span>
      </Said>
      <Said label="Values">
        <span className="block">
          <svg
            viewBox={`0 0 ${g.histogram.length * 4} 26`}
            preserveAspectRatio="none"
            className="h-7 w-full"
            role="img"
            aria-label={`Values of ${g.name}, from ${formatNumber(g.least, 3)} to ${formatNumber(g.most, 3)}`}
          >
            {g.histogram.map((n, i) => (
              // roots, so that rare values are seen
              <rect
                key={i}
                x={4 * i}
                width="3"
                y={26 - 26 * Math.sqrt(n / top)}
                height={26 * Math.sqrt(n / top)}
                className="fill-base-content/50"
              />
            ))}
          </svg>
          <span className="figures flex justify-between text-xs quiet">
            <span>{formatNumber(g.least, 3)}</span>
            <span>{formatNumber(g.most, 3)}</span>
          </span>
        </span>
      </Said>
    </>
  );
}

/** The medium's density written as a file, as other programs read it. */
function Bake({ name, index }: { name: string; index: number }) {
  const { session, store } = useBench();
  const [across, setAcross] = useState(96);
  const [state, setState] = useState<{ busy: boolean; said: string | null }>({ busy: false, said: null });
  const bake = async (): Promise<void> => {
    setState({ busy: true, said: null });
    try {
      const worker = await session.section.asked();
      const bytes = await worker.bake(store.getState().document, index, across);
      saveFile(bytes as Uint8Array<ArrayBuffer>, `${name.replace(/[^\p{L}\p{N}._-]+/gu, "-")}.vdb`, "application/octet-stream");
      setState({ busy: false, said: null });
    } catch (error) {
      setState({ busy: false, said: (error as Error).message });
    }
  };
  return (
    <>
      <div className="grid grid-cols-[1fr_6.4rem] items-center gap-x-2">
        <Num
          label="Voxels across"
          quantity="count"
          whole
          value={across}
          min={8}
          max={256}
          step={8}
          reset={96}
          teach="Along the longest side of the region, for the file that is written."
          onChange={setAcross}
        />
        <button
          className="btn btn-xs btn-outline hair"
          disabled={state.busy}
          title="Writes this medium's density as OpenVDB: its region, height, break-up and grid in one."
          onClick={() => void bake()}
        >
          {state.busy ? "Baking …" : "Bake to a file"}
        </button>
      </div>
      {state.said && (
        <p role="alert" className="text-xs text-error">
          {state.said}
        </p>
      )}
    </>
  );
}
