/** Fields of one light of the list, as its kind has them. */
import { map3 } from "#core/math/vectors";
import { useState } from "react";
import { strengthOf } from "#core/scene/lights";
import { formatNumber } from "#core/document/quantities";
import type { Light, SceneDocument } from "#core/document/schema";
import { useReach } from "../../model/medium-fields";
import { useBench, useDocument, useView } from "../../model/context";
import { FollowField } from "../FollowField";
import { MotionField } from "../MotionField";
import { Num } from "../../../shared/Num";
import { Group } from "../Group";
import { Readout, Select, Switch } from "../../../shared/controls";
import { AssetField } from "./AssetField";
import { changeLights, duplicateLights, removeLights, unitText } from "../../model/edits/lights";
import { Shares, Temperature, Tint } from "./fields";
import { GoboFields } from "./GoboFields";
import { ShineButton } from "./ShineButton";
import { MediaReached } from "./MediaReached";
import type { GroupWords } from "../../model/group-words";
import { ProfilePlot } from "./ProfilePlot";
import { useLengths } from "../../../shared/units";

type V3 = readonly [number, number, number];

export function LightFields({ light, index }: { light: Light; index: number }) {
  const { store, view } = useBench();
  const doc = useDocument();
  const reach = useReach();
  const lengths = useLengths();
  const lux = lengths.illuminance.full;
  const tool = useView((s) => s.tool);
  const { fade } = light;
  const set = (change: Partial<Light>): void => store.getState().set((d) => changeLights(d, [index], () => change));
  const replace = (d: SceneDocument, change: object): SceneDocument => changeLights(d, [index], () => change);
  const vector = (label: string, value: V3, tooltip: string, onChange: (v: [number, number, number]) => void) =>
    value.map((c, k) => (
      <Num
        key={label + k}
        label={`${label} ${"xyz"[k]}`}
        unit="m"
        quantity="length"
        value={c}
        min={-1e5}
        max={1e5}
        useful={[-reach / 2, reach / 2]}
        step={reach / 800}
        reset={0}
        tooltip={tooltip}
        onChange={(x) => onChange(map3(value, (o, i) => (i === k ? x : o)))}
      />
    ));
  const length = (label: string, value: number, tooltip: string, onChange: (v: number) => void, least = 1e-4) => (
    <Num
      key={label}
      logarithmic
      label={label}
      unit="m"
      quantity="length"
      value={value}
      min={least === 0 ? 0 : 1e-5}
      max={1e4}
      useful={[0.01, 10]}
      reset={0.5}
      tooltip={tooltip}
      onChange={onChange}
    />
  );
  const area = light.kind !== "point" && light.kind !== "spot" && light.kind !== "profile";
  const candela = light.kind === "profile" ? null : strengthOf(light);
  return (
    <div role="group" aria-label={light.name} className="mb-2 space-y-1 border-l border-primary/60 py-1 pl-2.5">
      <LightName light={light} index={index} />
      {light.kind === "profile" ? (
        <>
          <AssetField
            label="Profile"
            kind="profile"
            accept=".ies,.IES,.tlt,.TLT"
            value={light.asset}
            tooltip="A photometric file (IES): candela by direction, as they were measured."
            onTake={(d, asset) => replace(d, { asset })}
          />
          <ProfilePlot asset={light.asset} scale={light.scale * 2 ** light.stops} />
          <Num
            logarithmic
            label="Multiplier"
            value={light.scale}
            min={0}
            max={1e6}
            useful={[0.01, 100]}
            reset={1}
            tooltip="Multiplies the file's candela."
            onChange={(scale) => set({ scale })}
          />
        </>
      ) : (
        <>
          <Num
            logarithmic
            label="Intensity"
            unit={unitText(light.unit, lengths.illuminance.short)}
            value={light.intensity}
            min={0}
            max={1e9}
            useful={[10, 1e6]}
            reset={1000}
            tooltip="Strength of the light in its unit. Illuminance falls with the square of the distance."
            onChange={(intensity) => set({ intensity })}
          />
          <Select
            label="Unit"
            value={light.unit}
            options={[
              ["cd", "candela (axis)"],
              ["lm", "lumen"],
              ["lux", area ? `${lux} · ${lengths.unit}² (axis)` : `${lux} at 1 ${lengths.unit}`],
              ["W", "watt (radiant)"],
              ...(area ? ([["cd/m2", "candela per m²"]] as const) : []),
            ]}
            tooltip={`Unit of the intensity. Changing it keeps the light's strength.${area ? ` ${lux} · ${lengths.unit}²: illuminance on the axis from afar, times the distance squared; nearer by, a light with an area gives less.` : ""}`}
            onChange={(unit) => {
              const one = strengthOf({ ...light, unit, intensity: 1, stops: 0 });
              const now = strengthOf({ ...light, stops: 0 });
              set({ unit, intensity: Number((now / one).toPrecision(6)) });
            }}
          />
        </>
      )}
      <Num
        label="Stops"
        unit="stops"
        quantity="ev"
        value={light.stops}
        min={-40}
        max={40}
        useful={[-6, 6]}
        step={0.05}
        reset={0}
        tooltip="Above or below that strength; one more doubles it."
        onChange={(stops) => set({ stops })}
      />
      {candela !== null && area && (
        <Readout label="Equals">
          <span className="figures">{formatNumber(candela, 3)} cd/m²</span>
        </Readout>
      )}
      <Temperature value={light.temperature} reset={4000} tint={light.tint} onChange={(temperature) => set({ temperature })} />
      <Tint value={light.tint} onChange={(tint) => set({ tint })} />
      {light.kind === "spot" && (
        <>
          <Num
            label="Cone"
            unit="°"
            quantity="angle"
            value={light.cone}
            min={0.1}
            max={178}
            useful={[5, 120]}
            step={0.5}
            reset={40}
            tooltip="Full angle at which the light ends."
            onChange={(cone) => set({ cone })}
          />
          <Num
            label="Soft edge"
            quantity="share"
            value={light.softness}
            min={0}
            max={1}
            step={0.01}
            reset={0.3}
            tooltip="Share of the half angle over which the light fades out."
            onChange={(softness) => set({ softness })}
          />
        </>
      )}
      {light.kind === "rectangle" &&
        light.size.map((v, k) =>
          length(k ? "Height" : "Width", v, "Side of the emitter.", (x) =>
            set({ size: light.size.map((o, i) => (i === k ? x : o)) } as Partial<Light>),
          ),
        )}
      {"radius" in light &&
        length(
          "Radius",
          light.radius,
          "Of the emitter. A larger one makes softer shadows and shafts.",
          (radius) => set({ radius }),
          light.kind === "spot" ? 0 : 1e-4,
        )}
      {light.kind === "tube" && length("Length", light.length, "Of the tube.", (l) => set({ length: l }))}
      <ShaftEdge light={light} />
      {(light.kind === "rectangle" || light.kind === "disk") && (
        <>
          <Num
            label="Spread"
            value={light.spread}
            min={0.02}
            max={1}
            useful={[0.02, 1]}
            step={0.01}
            reset={1}
            tooltip="1 shines as matt surfaces do; less narrows it to a beam."
            onChange={(spread) => set({ spread })}
          />
          <Switch
            label="Both sides"
            on={light.bothSides}
            tooltip="Shines from its back as well."
            onChange={(bothSides) => set({ bothSides })}
          />
        </>
      )}
      {"visible" in light && (
        <Switch
          label="Visible"
          on={light.visible}
          tooltip="The lens sees the emitter itself, as bright as it is; it hides nothing behind it. Glossy surfaces reflect it in any case."
          onChange={(visible) => set({ visible })}
        />
      )}
      {light.kind === "rectangle" && (
        <AssetField
          label="Image"
          kind="image"
          accept=".png,.jpg,.jpeg,.hdr,.exr"
          value={light.image}
          tooltip="Colours the emitter."
          onTake={(d, image) => replace(d, { image })}
        />
      )}
      <MotionField motion={light.motion} onHold={() => set({ motion: null })} />
      {vector("At", light.position, "Where the light is.", (position) => set({ position }))}
      <ShineButton light={index} />
      {"target" in light && vector("Aim", light.target, "The point the light is aimed at.", (target) => set({ target }))}
      {"target" in light && (
        <button
          className={`btn btn-xs w-full ${tool === "aim" ? "btn-primary" : "btn-outline hair"}`}
          aria-pressed={tool === "aim"}
          title="Click what the light should point at, in the picture or in space."
          onClick={() => view.setState({ tool: tool === "aim" ? "none" : "aim", lights: [index] })}
        >
          Aim at a point
        </button>
      )}
      {light.kind === "tube" &&
        vector("Along", light.direction, "Direction it lies along.", (direction) => Math.hypot(...direction) > 1e-6 && set({ direction }))}
      <FollowField
        lights={false}
        value={light.follows === null ? null : { kind: "object", name: light.follows }}
        onChange={(f) => set({ follows: f?.name ?? null })}
      />
      {"gobo" in light && (
        <GoboFields
          value={light.gobo}
          cone={light.kind === "spot"}
          across={
            light.kind === "spot" ? 2 * (light.gobo?.distance ?? 0.3) * Math.tan((light.cone * Math.PI) / 360) : (light.gobo?.size ?? 4)
          }
          onChange={(d, gobo) => replace(d, { gobo })}
        />
      )}
      <Group id="contributions" about={contributions(light)}>
        <Shares value={light} onChange={set} />
        <MediaReached value={light.media} onChange={(media) => set({ media })} />
        <Switch
          label="Distance fade"
          on={fade !== null}
          tooltip="Artistic: the light starts and ends at set distances, besides the inverse square."
          onChange={(on) =>
            set({
              fade: on
                ? { nearFrom: 0, nearTo: 0, farFrom: Number((reach / 2).toPrecision(2)), farTo: Number(reach.toPrecision(2)) }
                : null,
            })
          }
        />
        {fade &&
          (
            [
              ["nearFrom", "Near start"],
              ["nearTo", "Near end"],
              ["farFrom", "Far start"],
              ["farTo", "Far end"],
            ] as const
          ).map(([key, label]) => (
            <Num
              key={key}
              logarithmic
              label={label}
              unit="m"
              quantity="length"
              value={fade[key]}
              min={0}
              max={key.startsWith("near") ? 1e6 : 1e7}
              useful={[0.1, reach]}
              reset={0}
              tooltip="Distance from the light."
              onChange={(v) => set({ fade: { ...fade, [key]: v } })}
            />
          ))}
        <Num
          whole
          label="Air samples"
          quantity="count"
          value={light.airSamples ?? 0}
          min={0}
          max={64}
          useful={[0, 16]}
          step={1}
          reset={0}
          tooltip="Points per camera ray at which this light is sampled by itself; 0 shares the air samples with all lights. For one noisy light."
          onChange={(v) => set({ airSamples: v === 0 ? null : v })}
        />
      </Group>
      <div className="flex flex-wrap gap-x-3 pt-1 text-xs">
        <button
          className="link link-hover"
          disabled={doc.lights.length >= 4096}
          onClick={() => {
            const { doc: next, copies } = duplicateLights(store.getState().document, [index]);
            store.getState().set(() => next);
            view.setState({ lights: copies });
          }}
        >
          Duplicate
        </button>
        <button
          className="link link-hover quiet"
          title="Undo brings it back."
          onClick={() => {
            view.setState({ lights: [], solo: [], grip: null });
            store.getState().set((d) => removeLights(d, [index]));
          }}
        >
          Remove {light.name}
        </button>
      </div>
    </div>
  );
}

/** What a light does otherwise than a new one. */
function contributions({ air, surfaces, media, fade, airSamples }: Light): GroupWords {
  const words = [
    air < 1 ? `air ${formatNumber(100 * air, 2)} %` : "",
    surfaces < 1 ? `surfaces ${formatNumber(100 * surfaces, 2)} %` : "",
    media === null ? "" : "some media",
    fade ? "fades" : "",
    airSamples === null ? "" : `${airSamples} samples`,
  ].filter((w) => w !== "");
  return { words: words.join(", "), changed: words.length > 0 };
}

function LightName({ light, index }: { light: Light; index: number }) {
  const { store } = useBench();
  const [text, setText] = useState<string | null>(null);
  return (
    <label className="grid grid-cols-[8.2rem_1fr] items-center gap-x-2 text-sm">
      <span className="quiet">Name</span>
      <input
        aria-label={`Name of ${light.name}`}
        className="input input-xs w-full"
        maxLength={100}
        value={text ?? light.name}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => (e.key === "Enter" ? e.currentTarget.blur() : e.key === "Escape" ? setText(null) : undefined)}
        onBlur={() => {
          const name = text?.trim();
          setText(null);
          if (name && name !== light.name) store.getState().set((d) => changeLights(d, [index], () => ({ name })));
        }}
      />
    </label>
  );
}

/** What the size of an emitter does: full light, half shadow and shadow behind an edge, drawn to scale. */
function ShaftEdge({ light }: { light: Light }) {
  const across =
    light.kind === "rectangle" ? Math.max(...light.size) : light.kind === "tube" ? light.length : "radius" in light ? 2 * light.radius : 0;
  const lengths = useLengths();
  // an edge five metres from the light, looked at five metres behind it
  const soft = across;
  const k = 22 / 1.5;
  const h = Math.min(22, (soft / 2) * k);
  return (
    <div
      className="grid grid-cols-[8.2rem_1fr] items-center gap-x-2 text-xs quiet"
      title={`A post ${lengths.rough(5)} from the light throws a shaft's edge this soft ${lengths.rough(5)} behind it.`}
    >
      <span>Shaft edge</span>
      <svg
        viewBox="0 0 148 48"
        preserveAspectRatio="xMinYMid"
        className="h-12 w-full"
        role="img"
        aria-label={`The edge of a shaft is ${lengths.exact(soft, 2)} soft, ${lengths.rough(5)} behind what throws it`}
      >
        <rect x="2" y={24 - Math.max(1, h)} width="2" height={Math.max(2, 2 * h)} className="fill-primary" />
        <rect x="68" y="24" width="2.5" height="22" className="fill-base-content/70" />
        <path d={`M69 24L140 ${24 - h}V${24 + h}Z`} className="fill-primary/30" />
        <path
          d={`M4 ${24 + h}L69 24L140 ${24 - h}M4 ${24 - h}L69 24L140 ${24 + h}`}
          className="fill-none stroke-primary/60"
          strokeWidth=".75"
        />
        <text x="142" y="45" textAnchor="end" fontSize="13" className="figures fill-base-content/70">
          {soft > 0 ? lengths.exact(soft, 2) : "sharp"}
        </text>
      </svg>
    </div>
  );
}
