/** Sun, moon and sky. */
import { optionsOf, SKY_OPTIONS } from "../../model/kind-options";
import { starsSchema } from "#core/document/lights";
import type { SceneDocument } from "#core/document/schema";
import { ColourField } from "../../../shared/ColourField";
import { useBench, useDocument, useView } from "../../model/context";
import { Num } from "../../../shared/Num";
import { Select, Switch } from "../../../shared/controls";
import { AssetField } from "./AssetField";
import { DateHelper } from "./DateHelper";
import { SkyDome } from "../../drawings/SkyDome";
import { ShineButton } from "./ShineButton";
import { GoboFields } from "./GoboFields";
import { MediaReached } from "./MediaReached";
import { MotionField } from "../MotionField";
import { Shares, Temperature, Tint } from "./fields";

/** Illuminance at which the sun's strength is 0 stops: a high clear sun. */
const SUN_ZERO = 100_000;

function Angles({
  value,
  onChange,
}: {
  value: { azimuth: number; elevation: number };
  onChange(change: Partial<{ azimuth: number; elevation: number }>): void;
}) {
  return (
    <>
      <Num
        label="Azimuth"
        unit="°"
        quantity="angle"
        value={value.azimuth}
        min={-360}
        max={360}
        useful={[-180, 180]}
        step={0.5}
        reset={0}
        tooltip="Compass direction: 0 lies along −z, 90 along +x."
        onChange={(azimuth) => onChange({ azimuth })}
      />
      <Num
        label="Elevation"
        unit="°"
        quantity="angle"
        value={value.elevation}
        min={-90}
        max={90}
        useful={[0, 90]}
        step={0.25}
        reset={30}
        tooltip="Height above the horizon."
        onChange={(elevation) => onChange({ elevation })}
      />
    </>
  );
}

export function SunFields() {
  const { store, view } = useBench();
  const doc = useDocument();
  const tool = useView((s) => s.tool);
  const { sun } = doc;
  const set = (change: Partial<SceneDocument["sun"]>): void => store.getState().set((d) => ({ ...d, sun: { ...d.sun, ...change } }));
  return (
    <>
      <Switch label="On" on={sun.on} tooltip="A cone of parallel light." onChange={(on) => set({ on })} />
      <button
        className={`btn btn-xs w-full ${tool === "sun" ? "btn-primary" : "btn-outline hair"}`}
        aria-pressed={tool === "sun"}
        disabled={doc.camera.kind === "orthographic"}
        title="Drag in the picture to put the sun behind that point. S"
        onClick={() => view.setState({ tool: tool === "sun" ? "none" : "sun" })}
      >
        Drag the sun in the picture
      </button>
      <ShineButton light="sun" />
      <SkyDome light="sun" className="mx-auto w-40" />
      <Angles value={sun} onChange={set} />
      <MotionField motion={sun.motion} onHold={() => set({ motion: null })} />
      <DateHelper onChange={set} />
      <Num
        label="Strength"
        unit="stops"
        quantity="ev"
        value={Math.max(-40, Math.log2(Math.max(sun.illuminance, 1e-7) / SUN_ZERO))}
        min={-40}
        max={6}
        useful={[-8, 2]}
        step={0.05}
        reset={0}
        tooltip="Strength in stops; 0 is a high sun in a clear sky, 100 000 lux."
        onChange={(s) => set({ illuminance: Number((SUN_ZERO * 2 ** s).toPrecision(6)) })}
      />
      <Num
        logarithmic
        label="Illuminance"
        unit="lx"
        quantity="illuminance"
        value={sun.illuminance}
        min={0}
        max={1e7}
        useful={[10, 130000]}
        reset={50000}
        tooltip="Light on a plane that faces the sun, before it enters the air of this scene."
        onChange={(illuminance) => set({ illuminance })}
      />
      <Temperature value={sun.temperature} reset={5500} tint={sun.tint} onChange={(temperature) => set({ temperature })} />
      <Tint value={sun.tint} onChange={(tint) => set({ tint })} />
      <Num
        logarithmic
        label="Angular diameter"
        unit="°"
        quantity="angle"
        value={sun.angularDiameter}
        min={0.01}
        max={90}
        useful={[0.1, 20]}
        reset={0.53}
        tooltip="The real sun has 0.53°; a wider one softens the edges of shafts."
        onChange={(angularDiameter) => set({ angularDiameter })}
      />
      <Switch
        label="Visible to the lens"
        on={sun.diskVisible}
        tooltip="Whether the camera sees the disk itself. Its light is the same."
        onChange={(diskVisible) => set({ diskVisible })}
      />
      <GoboFields value={sun.gobo} cone={false} across={sun.gobo?.size ?? 4} onChange={(d, gobo) => ({ ...d, sun: { ...d.sun, gobo } })} />
      <Shares value={sun} onChange={set} />
      <MediaReached value={sun.media} onChange={(media) => set({ media })} />
    </>
  );
}

export function MoonFields() {
  const { store } = useBench();
  const { moon } = useDocument();
  const set = (change: Partial<SceneDocument["moon"]>): void => store.getState().set((d) => ({ ...d, moon: { ...d.moon, ...change } }));
  return (
    <>
      <Switch label="On" on={moon.on} tooltip="A second disk at infinity." onChange={(on) => set({ on })} />
      {moon.on && (
        <>
          <SkyDome light="moon" className="mx-auto w-40" />
          <Angles value={moon} onChange={set} />
          <Num
            logarithmic
            label="Illuminance"
            unit="lx"
            quantity="illuminance"
            value={moon.illuminance}
            min={0}
            max={1e5}
            useful={[0.01, 1]}
            reset={0.25}
            tooltip="Light on a plane that faces it. A full moon gives about a quarter of a lux."
            onChange={(illuminance) => set({ illuminance })}
          />
          <Temperature value={moon.temperature} reset={4100} tint={moon.tint} onChange={(temperature) => set({ temperature })} />
          <Tint value={moon.tint} onChange={(tint) => set({ tint })} />
          <Num
            logarithmic
            label="Angular diameter"
            unit="°"
            quantity="angle"
            value={moon.angularDiameter}
            min={0.01}
            max={30}
            useful={[0.2, 5]}
            reset={0.52}
            tooltip="The real moon has 0.52°."
            onChange={(angularDiameter) => set({ angularDiameter })}
          />
          <Shares value={moon} onChange={set} />
          <MediaReached value={moon.media} onChange={(media) => set({ media })} />
        </>
      )}
    </>
  );
}

/** Where the sky ends: how high, and what lies below it. */
function HorizonFields() {
  const { store } = useBench();
  const { sky } = useDocument();
  const set = (change: Partial<SceneDocument["sky"]>): void => store.getState().set((d) => ({ ...d, sky: { ...d.sky, ...change } }));
  return (
    <>
      {(sky.model === "gradient" || sky.ground) && (
        <Num
          label="Horizon height"
          unit="°"
          quantity="angle"
          value={sky.horizonHeight}
          min={-89}
          max={89}
          useful={[-10, 20]}
          step={0.1}
          reset={0}
          tooltip="Elevation of the horizon, where a gradient begins and the ground ends: the top of distant hills, or of haze."
          onChange={(horizonHeight) => set({ horizonHeight })}
        />
      )}
      <Switch
        label="Ground"
        on={sky.ground !== null}
        tooltip="A colour of its own below the horizon, where the set ends."
        onChange={(on) => set({ ground: on ? [0.25, 0.24, 0.22] : null, ...(on && sky.horizonBlur === 0 ? { horizonBlur: 4 } : {}) })}
      />
      {sky.ground && (
        <>
          <ColourField
            label="Ground colour"
            max={10}
            value={sky.ground}
            reset={[0.25, 0.24, 0.22]}
            onGesture={(a) => store.gesture(a)}
            tooltip="Colour below the horizon, in the sky's luminance (of a clear sky: as a level plane sees it)."
            onChange={(ground) => set({ ground })}
          />
          <Num
            label="Horizon blur"
            unit="°"
            quantity="angle"
            value={sky.horizonBlur}
            min={0}
            max={90}
            useful={[0, 20]}
            step={0.1}
            reset={4}
            tooltip="Angle over which the horizon passes into the ground, half of it above the horizon: as much as the haze before it hides."
            onChange={(horizonBlur) => set({ horizonBlur })}
          />
        </>
      )}
    </>
  );
}

export function SkyFields() {
  const { store } = useBench();
  const { sky } = useDocument();
  const { stars } = sky;
  const set = (change: Partial<SceneDocument["sky"]>): void => store.getState().set((d) => ({ ...d, sky: { ...d.sky, ...change } }));
  const colour = (label: string, key: "zenith" | "horizon", reset: [number, number, number], tooltip: string) => (
    <ColourField
      label={label}
      max={10}
      value={sky[key]}
      reset={reset}
      onGesture={(a) => store.gesture(a)}
      tooltip={tooltip}
      onChange={(v) => set({ [key]: v })}
    />
  );
  const strength = (
    <Num
      logarithmic
      label="Strength"
      value={sky.strength}
      min={0}
      max={1e6}
      useful={[0.01, 100]}
      reset={1}
      tooltip="Factor on its brightness."
      onChange={(v) => set({ strength: v })}
    />
  );
  return (
    <>
      <Switch label="On" on={sky.on} tooltip="Light from all around, and the background." onChange={(on) => set({ on })} />
      {/* an image is asked for before the sky is of one */}
      <Select
        label="Kind"
        value={sky.model}
        options={sky.image ? optionsOf(SKY_OPTIONS) : optionsOf(SKY_OPTIONS, ["image"])}
        tooltip="Model of the sky's radiance. The clear sky follows the sun."
        onChange={(model) => set({ model })}
      />
      {(sky.model === "gradient" || sky.model === "overcast") && (
        <Num
          logarithmic
          label="Luminance"
          unit="cd/m²"
          value={sky.luminance}
          min={0}
          max={1e7}
          useful={[1, 20000]}
          reset={4000}
          tooltip={
            sky.model === "gradient"
              ? "Brightness of the sky; it scales both colours."
              : "Brightness overhead; an overcast sky falls to a third of it at the horizon."
          }
          onChange={(luminance) => set({ luminance })}
        />
      )}
      {sky.model === "gradient" && (
        <>
          {colour("Zenith", "zenith", [0.6, 0.8, 1], "Colour overhead.")}
          {colour("Horizon", "horizon", [0.9, 0.95, 1], "Colour at the horizon, and below it where there is no ground.")}
        </>
      )}
      {sky.model === "overcast" && colour("Colour", "zenith", [0.6, 0.8, 1], "Colour of the clouds.")}
      {sky.model === "clear" && (
        <>
          <Num
            label="Turbidity"
            value={sky.turbidity}
            min={1.7}
            max={10}
            useful={[1.7, 10]}
            step={0.1}
            reset={3}
            tooltip="Haze of the air far above the scene: 2 is pure, 3 clear, 6 hazy."
            onChange={(turbidity) => set({ turbidity })}
          />
          {strength}
        </>
      )}
      {sky.model !== "image" && <HorizonFields />}
      <AssetField
        label="Image"
        kind="image"
        accept=".hdr,.exr,.png,.jpg,.jpeg"
        value={sky.image}
        tooltip="A picture of all directions (equirectangular): OpenEXR and Radiance HDR keep real brightness."
        onTake={(d, image) => ({ ...d, sky: { ...d.sky, image, model: "image" } })}
      />
      {sky.model === "image" && (
        <>
          {strength}
          <Num
            label="Rotation"
            unit="°"
            quantity="angle"
            value={sky.rotation}
            min={-360}
            max={360}
            useful={[-180, 180]}
            step={0.5}
            reset={0}
            tooltip="Turns the image about the vertical."
            onChange={(rotation) => set({ rotation })}
          />
        </>
      )}
      <Shares value={sky} onChange={set} />
      <Switch
        label="Stars"
        on={sky.stars !== null}
        tooltip="Behind all geometry, dimmed by the air like any background."
        onChange={(on) => set({ stars: on ? starsSchema.parse({}) : null })}
      />
      {stars && (
        <>
          <Num
            logarithmic
            whole
            label="Number"
            quantity="count"
            value={stars.count}
            min={0}
            max={200_000}
            useful={[100, 20000]}
            reset={4000}
            tooltip="Over the whole sphere; some 4000 are seen on a clear night."
            onChange={(count) => set({ stars: { ...stars, count } })}
          />
          <Num
            logarithmic
            label="Size"
            unit="°"
            quantity="angle"
            value={stars.size}
            min={0.005}
            max={2}
            useful={[0.02, 0.3]}
            reset={0.06}
            tooltip="Angular diameter of a bright one."
            onChange={(size) => set({ stars: { ...stars, size } })}
          />
          <Num
            logarithmic
            label="Brightness"
            unit="cd/m²"
            value={stars.brightness}
            min={0}
            max={1e6}
            useful={[0.1, 100]}
            reset={2}
            tooltip="Luminance of a bright one."
            onChange={(brightness) => set({ stars: { ...stars, brightness } })}
          />
          <Num
            label="Hue variation"
            quantity="share"
            value={stars.hueVariation}
            min={0}
            max={1}
            step={0.01}
            reset={0.5}
            tooltip="How much their colours vary."
            onChange={(hueVariation) => set({ stars: { ...stars, hueVariation } })}
          />
          <Num
            whole
            label="Seed"
            quantity="count"
            value={stars.seed}
            min={1}
            max={999}
            step={1}
            reset={1}
            tooltip="Another arrangement of stars."
            onChange={(seed) => set({ stars: { ...stars, seed } })}
          />
        </>
      )}
    </>
  );
}
