/** What stands before a light: a pattern or an image, with a look at what it throws on a wall. */
import { contextOf } from "../../../shared/canvas";
import { GOBO_OPTIONS, optionsOf } from "../../model/kind-options";
import { useEffect, useRef, useState } from "react";
import { type Gobo, goboSchema } from "#core/document/lights";
import type { SceneDocument } from "#core/document/schema";
import { encode } from "#core/film/finish";
import { goboAsset } from "#core/document/assets";
import { useBench, useDocument } from "../../model/context";
import { Num } from "../../../shared/Num";
import { Select, Switch } from "../../../shared/controls";
import { TimeField } from "../TimeField";
import { AssetField } from "./AssetField";

const PATTERNS = [["none", "none"] as const, ...optionsOf(GOBO_OPTIONS)];

export function GoboFields(p: {
  value: Gobo | null;
  /** Metres across the pattern where it is sharp; a spot's fills its cone. */
  across: number;
  cone: boolean;
  onChange(doc: SceneDocument, gobo: Gobo | null): SceneDocument;
}) {
  const { store } = useBench();
  const g = p.value;
  /** An image or images are wanted, but not there yet. */
  const [wants, setWants] = useState<"image" | "sequence" | null>(null);
  const change = (gobo: Gobo | null): void => store.getState().set((d) => p.onChange(d, gobo));
  const set = (part: Partial<Gobo>): void => {
    if (g) change({ ...g, ...part });
  };
  const shown = wants ?? g?.pattern ?? "none";
  return (
    <>
      <Select
        label="Gobo"
        value={shown}
        options={PATTERNS}
        tooltip="A pattern before the light breaks it into rays, without geometry."
        onChange={(v) => {
          const fromFile = v === "image" || v === "sequence";
          setWants(fromFile && v !== g?.pattern ? v : null);
          if (v === "none") change(null);
          else if (!fromFile) {
            const { image: _, frames: __, pattern: ___, ...rest } = g ?? ({} as Partial<Gobo>);
            change(goboSchema.parse({ ...rest, pattern: v }));
          }
        }}
      />
      {shown === "image" && (
        <AssetField
          label="Image"
          kind="image"
          accept=".png,.jpg,.jpeg,.hdr,.exr"
          value={g?.image ?? null}
          tooltip="Bright parts let light through, in their colour."
          onTake={(d, name) => {
            const { frames: _, ...rest } = g ?? ({} as Partial<Gobo>);
            setWants(null);
            return p.onChange(d, goboSchema.parse({ ...rest, pattern: "image", image: name }));
          }}
        />
      )}
      {shown === "sequence" && (
        <AssetField
          several
          label="Images"
          kind="image"
          accept=".png,.jpg,.jpeg,.hdr,.exr"
          value={null}
          {...(g?.frames ? { words: `${g.frames.length} ${g.frames.length === 1 ? "image" : "images"}` } : {})}
          tooltip="One image a frame, in the order of their names."
          onTake={(d, _, names) => {
            const { image: __, ...rest } = g ?? ({} as Partial<Gobo>);
            setWants(null);
            return p.onChange(d, goboSchema.parse({ ...rest, pattern: "sequence", frames: names }));
          }}
        />
      )}
      {g && (
        <>
          <GoboWall gobo={g} across={p.across} />
          {g.pattern !== "image" && g.pattern !== "sequence" && (
            <>
              <Num
                label="Repeats"
                value={g.count}
                min={0.5}
                max={64}
                useful={[1, 24]}
                step={0.25}
                reset={6}
                tooltip="How often the pattern repeats across."
                onChange={(count) => set({ count })}
              />
              <Num
                label="Open area"
                quantity="share"
                value={g.open}
                min={0}
                max={1}
                step={0.01}
                reset={0.5}
                tooltip="Share of the pattern that lets light through."
                onChange={(open) => set({ open })}
              />
              <Num
                whole
                label="Seed"
                quantity="count"
                value={g.seed}
                min={1}
                max={999}
                step={1}
                reset={1}
                tooltip="Another pattern of the same kind."
                onChange={(seed) => set({ seed })}
              />
            </>
          )}
          {g.frames && (
            <>
              <Num
                label="Rate"
                unit="/s"
                value={g.rate}
                min={0.01}
                max={240}
                useful={[1, 60]}
                step={1}
                reset={24}
                tooltip="Images per second."
                onChange={(rate) => set({ rate })}
              />
              <TimeField />
              <Switch
                label="Loop"
                on={g.loop}
                tooltip="The sequence starts again at its end; otherwise its last image stays."
                onChange={(loop) => set({ loop })}
              />
            </>
          )}
          <Num
            label="Rotation"
            unit="°"
            quantity="angle"
            value={g.rotation}
            min={-360}
            max={360}
            useful={[-180, 180]}
            step={1}
            reset={0}
            tooltip="Turned about the light's axis."
            onChange={(rotation) => set({ rotation })}
          />
          {!p.cone && (
            <Num
              logarithmic
              label="Width"
              unit="m"
              quantity="length"
              value={g.size}
              min={0.001}
              max={1e5}
              useful={[0.1, 100]}
              reset={4}
              tooltip="Width of one pattern."
              onChange={(size) => set({ size })}
            />
          )}
          <Num
            logarithmic
            label="Distance"
            unit="m"
            quantity="length"
            value={g.distance}
            min={0.001}
            max={1e5}
            useful={[0.05, 20]}
            reset={0.3}
            tooltip="Distance from the light. Close to an area light the pattern is soft."
            onChange={(distance) => set({ distance })}
          />
        </>
      )}
    </>
  );
}

const SIDE = 96;

/** The pattern as light on a wall. */
function GoboWall({ gobo, across }: { gobo: Gobo; across: number }) {
  const { session } = useBench();
  const doc = useDocument();
  const canvas = useRef<HTMLCanvasElement>(null);
  const asset = goboAsset(gobo, doc.time);
  const key = JSON.stringify([gobo, across, asset, asset ? doc.assets[asset]?.sha256 : null]);
  useEffect(() => {
    let current = true;
    void session.worker.gobo(gobo, doc, across).then(
      (picture) => {
        const c = canvas.current;
        if (!current || !c) return;
        const image = new ImageData(SIDE, SIDE);
        for (let y = 0; y < SIDE; y++)
          for (let x = 0; x < SIDE; x++) {
            const from = 3 * (Math.floor((y * picture.height) / SIDE) * picture.width + Math.floor((x * picture.width) / SIDE));
            for (let k = 0; k < 3; k++)
              image.data[4 * (y * SIDE + x) + k] = 255 * encode(Math.min(1, 0.02 + 0.98 * picture.rgb[from + k]!));
            image.data[4 * (y * SIDE + x) + 3] = 255;
          }
        contextOf(c).putImageData(image, 0, 0);
      },
      () => undefined,
    );
    return () => {
      current = false;
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the key holds all that the picture depends on
  }, [key, session]);
  return (
    <div className="grid grid-cols-[8.2rem_1fr] gap-x-2">
      <span className="text-sm quiet">Preview</span>
      <canvas
        ref={canvas}
        width={SIDE}
        height={SIDE}
        role="img"
        aria-label={`The gobo's ${gobo.pattern} on a wall`}
        className="size-24"
        style={{ transform: `rotate(${gobo.rotation}deg) scale(.72)` }}
      />
    </div>
  );
}
