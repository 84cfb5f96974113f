/** Densities from a file (OpenVDB). */
import { map3 } from "#core/math/vectors";
import { useEffect, useState } from "react";
import { gridSchema, type VolumeGrid } from "#core/document/air";
import { gridFrames } from "#core/document/sequence";
import { CurveField } from "../../../shared/CurveField";
import { TintFields } from "./TintFields";
import { formatNumber } from "#core/document/quantities";
import { useBench, useDocument } from "../../model/context";
import { AssetField } from "../lights/AssetField";
import { Num } from "../../../shared/Num";
import { Bake } from "./Bake";
import { GridFacts } from "./GridFacts";
import { gridOf, SequenceFields } from "./SequenceFields";
import type { VolumeContent } from "../../model/scene-worker";
import { MediumGroup } from "../Group";
import { Select, Switch } from "../../../shared/controls";
import { withMedium } from "../../model/store";
import type { MediumFields } from "../../model/medium-fields";

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
    // eslint-disable-next-line react-hooks/exhaustive-deps -- another file is another hash
  }, [hash, session]);
  const temperature = grid?.temperature ?? null;
  const change = (c: Partial<VolumeGrid>): void => {
    if (grid) set({ grid: { ...grid, ...c } });
  };
  const names = content?.grids.map((g) => g.name) ?? (grid ? [grid.channel] : []);
  const shown = content?.grids.find((g) => g.name === grid?.channel);
  return (
    <MediumGroup id="grid" medium={medium}>
      <AssetField
        several
        label="Volume"
        kind="volume"
        accept=".vdb"
        value={grid?.asset ?? null}
        {...(grid?.sequence ? { words: `${grid.sequence.frames.length} frames` } : {})}
        tooltip="Sparse densities from an OpenVDB file take the place of even air. Several files are frames in the order of their names."
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
            label="Density channel"
            value={grid.channel}
            options={[...new Set([...names, grid.channel])].map((n) => [n, n] as const)}
            tooltip="Channel of the file that holds densities."
            onChange={(channel) =>
              change({ channel, low: 0, high: grid.sequence ? (content?.grids.find((g) => g.name === channel)?.max ?? 1) : null })
            }
          />
          {content && !shown && (
            <p role="alert" className="text-xs text-warning">
              The file has no channel of this name; it has {names.join(", ")}.
            </p>
          )}
          {shown && <GridFacts grid={shown} scale={grid.scale} />}
          {grid.sequence && <SequenceFields sequence={grid.sequence} onChange={(sequence) => change({ sequence })} />}
          <Num
            label="Empty value"
            value={grid.low}
            min={-1e9}
            max={1e9}
            useful={[shown?.min ?? 0, shown?.max ?? 1]}
            step={((shown?.max ?? 1) - (shown?.min ?? 0)) / 200 || 0.01}
            reset={0}
            tooltip="Channel value that means no density."
            onChange={(low) => low !== (grid.high ?? shown?.max) && change({ low })}
          />
          <Num
            label="Full value"
            value={grid.high ?? shown?.max ?? 1}
            min={-1e9}
            max={1e9}
            useful={[shown?.min ?? 0, shown?.max ?? 1]}
            step={((shown?.max ?? 1) - (shown?.min ?? 0)) / 200 || 0.01}
            reset={shown?.max ?? 1}
            tooltip="Channel value that means full density."
            onChange={(high) => high !== grid.low && change({ high })}
          />
          <Switch
            label="Density curve"
            on={grid.curve !== null}
            tooltip="A curve says how dense the air is at each value between empty and full."
            onChange={(on) => change({ curve: on ? [[0, 0], [0.5, 0.5], [1, 1]] : null })} // prettier-ignore
          />
          {grid.curve && (
            <CurveField
              label="Density by value"
              value={grid.curve}
              ends={[formatNumber(grid.low, 3), formatNumber(grid.high ?? shown?.max ?? 1, 3)]}
              tooltip="Left what is empty, right what is full; up is denser. Click to add a point."
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
              tooltip="Where the file's origin lies."
              onChange={(v) => change({ position: map3(grid.position, (o, i) => (i === k ? v : o)) })}
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
              tooltip="Turned about this axis."
              onChange={(v) => change({ rotation: map3(grid.rotation, (o, i) => (i === k ? v : o)) })}
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
            tooltip="The file's metres against the scene's."
            onChange={(scale) => change({ scale })}
          />
          <Switch
            label="Black-body emission"
            on={grid.temperature !== null}
            tooltip="A temperature channel makes the medium emit as soot does: black-body radiation times absorption."
            onChange={(on) =>
              change({
                temperature: on
                  ? gridSchema.shape.temperature.parse({ channel: names.find((n) => /temp|heat/i.test(n)) ?? names[0] })
                  : null,
              })
            }
          />
          {temperature && (
            <>
              <Select
                label="Temperature channel"
                value={temperature.channel}
                options={[...new Set([...names, temperature.channel])].map((n) => [n, n] as const)}
                tooltip="Channel of the file that holds temperatures."
                onChange={(channel) => change({ temperature: { ...temperature, channel } })}
              />
              <Num
                logarithmic
                label="Kelvin per unit"
                value={temperature.scale}
                min={1e-3}
                max={1e6}
                useful={[0.1, 5000]}
                reset={1}
                tooltip="Temperature that one unit of the channel stands for."
                onChange={(scale) => change({ temperature: { ...temperature, scale } })}
              />
              <Num
                label="Kelvin at 0"
                unit="K"
                value={temperature.offset}
                min={-1e6}
                max={1e6}
                useful={[0, 2000]}
                step={10}
                reset={0}
                tooltip="Temperature where the channel is 0."
                onChange={(offset) => change({ temperature: { ...temperature, offset } })}
              />
              <Num
                logarithmic
                label="Emission scale"
                unit="×"
                value={temperature.strength}
                min={1e-6}
                max={1e6}
                useful={[0.01, 100]}
                reset={1}
                tooltip="1 is the physical emission of soot."
                onChange={(strength) => change({ temperature: { ...temperature, strength } })}
              />
            </>
          )}
          <button className="link link-hover text-xs" onClick={() => set({ grid: null })}>
            Remove grid
          </button>
        </>
      )}
      <Bake name={medium.name} index={index} />
    </MediumGroup>
  );
}
