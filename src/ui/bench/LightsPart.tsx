/** Sun, sky and local lights. */
import { lightSchema, type Light, type SceneDocument } from "#core/document/schema";
import { cameraFrame } from "#core/scene/compile";
import { ColourField } from "../shared/ColourField";
import { NumberField } from "../shared/NumberField";
import { useReach } from "./AirPart";
import { useBench, useDocument, useView } from "./context";
import { Heading, Switch } from "./Sheet";

/** Illuminance at which the sun's strength is 0 stops: a high clear sun. */
const SUN_ZERO = 100_000;

export function LightsPart() {
  const { store, view } = useBench();
  const doc = useDocument();
  const tool = useView((s) => s.tool);
  const gesture = (a: boolean): void => store.gesture(a);
  const sun = (change: Partial<SceneDocument["sun"]>): void => store.getState().set((d) => ({ ...d, sun: { ...d.sun, ...change } }));
  const sky = (change: Partial<SceneDocument["sky"]>): void => store.getState().set((d) => ({ ...d, sky: { ...d.sky, ...change } }));
  return (
    <>
      <Heading>Sun</Heading>
      <Switch label="Shines" on={doc.sun.on} teach="A cone of parallel light." onChange={(on) => sun({ on })} />
      <button
        className={`btn btn-xs w-full ${tool === "sun" ? "btn-primary" : "btn-outline hair"}`}
        aria-pressed={tool === "sun"}
        disabled={doc.camera.kind === "orthographic"}
        title="Drag in the picture to put the sun behind that point. S"
        onClick={() => view.setState({ tool: tool === "sun" ? "none" : "sun" })}
      >
        Drag the sun in the picture
      </button>
      <NumberField
        label="Azimuth"
        unit="°"
        quantity="angle"
        value={doc.sun.azimuth}
        min={-360}
        max={360}
        useful={[-180, 180]}
        step={0.5}
        reset={0}
        onGesture={gesture}
        teach="Compass direction of the sun: 0 lies along −z, 90 along +x."
        onChange={(azimuth) => sun({ azimuth })}
      />
      <NumberField
        label="Elevation"
        unit="°"
        quantity="angle"
        value={doc.sun.elevation}
        min={-90}
        max={90}
        useful={[0, 90]}
        step={0.25}
        reset={30}
        onGesture={gesture}
        teach="Height of the sun above the horizon."
        onChange={(elevation) => sun({ elevation })}
      />
      <NumberField
        label="Strength"
        unit="stops"
        quantity="ev"
        value={Math.max(-40, Math.log2(Math.max(doc.sun.illuminance, 1e-7) / SUN_ZERO))}
        min={-40}
        max={6}
        useful={[-8, 2]}
        step={0.05}
        reset={0}
        onGesture={gesture}
        teach="Strength in stops; 0 is a high sun in a clear sky, 100 000 lux."
        onChange={(s) => sun({ illuminance: Number((SUN_ZERO * 2 ** s).toPrecision(6)) })}
      />
      <NumberField
        logarithmic
        label="Illuminance"
        unit="lx"
        value={doc.sun.illuminance}
        min={0}
        max={1e7}
        useful={[10, 130000]}
        reset={50000}
        onGesture={gesture}
        teach="Light on a plane that faces the sun, before it enters the air of this scene."
        onChange={(illuminance) => sun({ illuminance })}
      />
      <NumberField
        label="Temperature"
        unit="K"
        quantity="temperature"
        value={doc.sun.temperature}
        min={1000}
        max={40000}
        useful={[1800, 10000]}
        step={25}
        reset={5500}
        onGesture={gesture}
        teach="Colour of a glowing body of this temperature: low is amber, high is blue."
        onChange={(temperature) => sun({ temperature })}
      />
      <NumberField
        logarithmic
        label="Disk across"
        unit="°"
        quantity="angle"
        value={doc.sun.angularDiameter}
        min={0.01}
        max={90}
        useful={[0.1, 20]}
        reset={0.53}
        onGesture={gesture}
        teach="Angular diameter. The real sun has 0.53°; a wider one softens the edges of shafts."
        onChange={(angularDiameter) => sun({ angularDiameter })}
      />
      <Switch
        label="Disk in sight"
        on={doc.sun.diskVisible}
        teach="Whether the lens sees the disk itself. Its light is the same."
        onChange={(diskVisible) => sun({ diskVisible })}
      />

      <Heading>Sky</Heading>
      <Switch label="Shines" on={doc.sky.on} teach="Light from all around, and the background." onChange={(on) => sky({ on })} />
      <NumberField
        logarithmic
        label="Luminance"
        unit="cd/m²"
        value={doc.sky.luminance}
        min={0}
        max={1e7}
        useful={[1, 20000]}
        reset={4000}
        onGesture={gesture}
        teach="Brightness of the sky; it scales both colours."
        onChange={(luminance) => sky({ luminance })}
      />
      <ColourField
        label="Zenith"
        max={10}
        value={doc.sky.zenith}
        reset={[0.6, 0.8, 1]}
        onGesture={gesture}
        teach="Colour overhead."
        onChange={(zenith) => sky({ zenith })}
      />
      <ColourField
        label="Horizon"
        max={10}
        value={doc.sky.horizon}
        reset={[0.9, 0.95, 1]}
        onGesture={gesture}
        teach="Colour at and below the horizon."
        onChange={(horizon) => sky({ horizon })}
      />

      {doc.lights.map((light, i) => (
        <LightFields key={i} light={light} index={i} />
      ))}
      <div className="flex gap-2 pt-3">
        {(["spot", "point"] as const).map((kind) => (
          <button
            key={kind}
            className="btn btn-xs btn-outline hair flex-1"
            disabled={doc.lights.length >= 64}
            onClick={() => store.getState().set((d) => ({ ...d, lights: [...d.lights, newLight(d, kind)] }))}
          >
            Add a {kind}
          </button>
        ))}
      </div>
    </>
  );
}

/** A new light above and beside the line of sight, aimed at what the lens looks at. */
function newLight(doc: SceneDocument, kind: Light["kind"]): Light {
  const { right, up, forward } = cameraFrame(doc.camera);
  const gap = Math.hypot(...doc.camera.target.map((v, i) => v - doc.camera.position[i]!));
  const place = (a: number, b: number, c: number) =>
    doc.camera.position.map((v, i) => Number((v + gap * (a * right[i]! + b * up[i]! + c * forward[i]!)).toFixed(3))) as [
      number,
      number,
      number,
    ];
  const n = doc.lights.filter((l) => l.kind === kind).length + 1;
  const position = place(-0.25, 0.3, 0.3);
  const intensity = Number((2000 * 2 ** (doc.film.exposure - 10)).toPrecision(3));
  return lightSchema.parse(
    kind === "spot"
      ? { kind, name: `spot ${n}`, position, target: place(0.05, -0.1, 0.7), intensity: intensity * 10 }
      : { kind, name: `point ${n}`, position, intensity },
  );
}

function LightFields({ light, index }: { light: Light; index: number }) {
  const { store } = useBench();
  const reach = useReach();
  const gesture = (a: boolean): void => store.gesture(a);
  const set = (change: Partial<Light>): void =>
    store.getState().set((d) => ({ ...d, lights: d.lights.map((l, i) => (i === index ? ({ ...l, ...change } as Light) : l)) }));
  const vector = (what: "position" | "target", words: string) => {
    const v = what === "position" ? light.position : "target" in light ? light.target : null;
    return v?.map((c, k) => (
      <NumberField
        key={what + k}
        label={`${words} ${"xyz"[k]}`}
        unit="m"
        quantity="length"
        value={c}
        min={-1e5}
        max={1e5}
        useful={[-reach / 2, reach / 2]}
        step={reach / 800}
        reset={0}
        onGesture={gesture}
        teach={what === "position" ? "Where the light is." : "The point the light is aimed at."}
        onChange={(x) => set({ [what]: v.map((o, i) => (i === k ? x : o)) } as Partial<Light>)}
      />
    ));
  };
  return (
    <div role="group" aria-label={light.name}>
      <Heading>{light.name}</Heading>
      <div className="space-y-1.5">
        <Switch label="Shines" on={light.on} teach="Mutes the light without losing its settings." onChange={(on) => set({ on })} />
        <NumberField
          logarithmic
          label="Intensity"
          unit={light.unit === "cd/m2" ? "cd/m²" : light.unit}
          value={light.intensity}
          min={0}
          max={1e9}
          useful={[10, 1e6]}
          reset={1000}
          onGesture={gesture}
          teach="Strength of the light in its unit; what it gives falls with the square of the distance."
          onChange={(intensity) => set({ intensity })}
        />
        <NumberField
          label="Temperature"
          unit="K"
          quantity="temperature"
          value={light.temperature}
          min={1000}
          max={40000}
          useful={[1800, 10000]}
          step={25}
          reset={4000}
          onGesture={gesture}
          teach="Colour of a glowing body of this temperature."
          onChange={(temperature) => set({ temperature })}
        />
        {light.kind === "spot" && (
          <>
            <NumberField
              label="Cone"
              unit="°"
              quantity="angle"
              value={light.cone}
              min={0.1}
              max={178}
              useful={[5, 120]}
              step={0.5}
              reset={40}
              onGesture={gesture}
              teach="Full angle at which the light ends."
              onChange={(cone) => set({ cone })}
            />
            <NumberField
              label="Soft edge"
              quantity="share"
              value={light.softness}
              min={0}
              max={1}
              step={0.01}
              reset={0.3}
              onGesture={gesture}
              teach="Share of the half angle over which the light fades out."
              onChange={(softness) => set({ softness })}
            />
          </>
        )}
        {vector("position", "At")}
        {vector("target", "Aim")}
        <button
          className="btn btn-xs btn-ghost quiet"
          title="Undo brings it back."
          onClick={() => store.getState().set((d) => ({ ...d, lights: d.lights.filter((_, i) => i !== index) }))}
        >
          Remove {light.name}
        </button>
      </div>
    </div>
  );
}
