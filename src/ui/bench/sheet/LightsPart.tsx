/** Sun, moon, sky and the lights of the list. What is chosen opens under its own line. */
import { useState, type ReactNode } from "react";
import { LIMITS, lightSchema, type Light } from "#core/document/schema";
import { lampPlace } from "#core/scene/sight";
import { temperatureRgb } from "#core/optics/colour";
import { cssColour } from "../../shared/ColourField";
import { useLengths } from "../../shared/units";
import { useBench, useDocument, useView } from "../model/context";
import { bringAsset, withAsset } from "../model/assets";
import { changeLights, LIGHT_KINDS, newLight, unitText, type PlainKind } from "../model/edits/lights";
import { MoonFields, SkyFields, SunFields } from "./lights/SkyLights";
import { LightFields } from "./lights/LightFields";
import { isOpen } from "../model/groups";
import { sightNow } from "../model/sight";
import type { LightId } from "../model/session";

/** Lines shown here; the table holds all. */
const MAX_LINES = 60;

function SoloButton({ id, name }: { id: LightId; name: string }) {
  const { view } = useBench();
  const solo = useView((s) => s.solo);
  const on = solo.includes(id);
  return (
    <button
      className={`text-xs ${on ? "text-primary" : "quiet opacity-0 group-hover:opacity-100 focus:opacity-100"}`}
      aria-pressed={on}
      aria-label={`Solo ${name}`}
      title="Shows this light alone. The document does not change."
      onClick={() => view.setState({ solo: on ? solo.filter((s) => s !== id) : [...solo, id] })}
    >
      solo
    </button>
  );
}

function Great({
  id,
  title,
  on,
  summary,
  children,
}: {
  id: "sun" | "moon" | "sky";
  title: string;
  on: boolean;
  summary: string;
  children: ReactNode;
}) {
  const { view } = useBench();
  const open = useView((s) => isOpen(s.folds, id));
  return (
    <section id={`group-${id}`}>
      <div className="group flex items-center gap-2 hover:bg-base-300/30">
        <button
          className="flex min-w-0 flex-1 items-baseline gap-2 py-0.5 text-left text-sm"
          aria-expanded={open}
          onClick={() => view.fold(id, open)}
        >
          <span className={`font-semibold ${on ? "" : "quiet line-through"}`}>{title}</span>
          <span className="figures truncate text-xs quiet">{summary}</span>
        </button>
        <SoloButton id={id} name={title} />
        <span className="w-3 text-center text-xs quiet" aria-hidden>
          {open ? "−" : "+"}
        </span>
      </div>
      {open && <div className="mb-2 space-y-1 border-l border-primary/60 py-1 pl-2.5">{children}</div>}
    </section>
  );
}

export function LightsPart() {
  const bench = useBench();
  const { store, view, session } = bench;
  const doc = useDocument();
  const { illuminance } = useLengths();
  const { lights: chosen, solo, below } = useView((s) => s);
  const [problem, setProblem] = useState<string | null>(null);
  const add = (light: Light): void => {
    store.getState().set((d) => ({ ...d, lights: [...d.lights, light] }));
    view.setState({ lights: [doc.lights.length] });
  };
  const addProfile = async (file: File): Promise<void> => {
    setProblem(null);
    try {
      const stored = await bringAsset("profile", file, doc, session);
      const { position } = lampPlace(doc, sightNow(bench));
      const light = lightSchema.parse({
        kind: "profile",
        name: stored.name,
        position,
        target: [position[0], position[1] - 1, position[2]],
        asset: stored.name,
      });
      store.getState().set((d) => ({ ...withAsset(d, stored), lights: [...d.lights, light] }));
      view.setState({ lights: [doc.lights.length] });
    } catch (error) {
      setProblem(`${(error as Error).message}. Nothing was changed.`);
    }
  };
  const { sun, sky, moon } = doc;
  // the one that is open stays in sight, wherever in the list it is
  const open = chosen.at(-1);
  const shown = doc.lights.flatMap((light, i) => (i < MAX_LINES || i === open ? [{ light, i }] : []));
  return (
    <>
      {solo.length > 0 && (
        <p role="status" className="flex justify-between text-xs text-primary">
          {solo.length === 1 ? "One light alone" : `${solo.length} lights alone`}
          <button className="link" onClick={() => view.setState({ solo: [] })}>
            All again
          </button>
        </p>
      )}
      <Great id="sun" title="Sun" on={sun.on} summary={`${sun.azimuth.toFixed(0)}°, ${sun.elevation.toFixed(0)}° high`}>
        <SunFields />
      </Great>
      <Great
        id="sky"
        title="Sky"
        on={sky.on}
        summary={{ gradient: "gradient", clear: "clear", overcast: "overcast", image: "image" }[sky.model] + (sky.stars ? ", stars" : "")}
      >
        <SkyFields />
      </Great>
      <Great id="moon" title="Moon" on={moon.on} summary={moon.on ? `${moon.elevation.toFixed(0)}° high` : ""}>
        <MoonFields />
      </Great>
      <div className="flex items-baseline justify-between pt-2">
        <h3 className="text-xs font-semibold tracking-wide text-base-content/90">
          {doc.lights.length === 0 ? "No other lights" : doc.lights.length === 1 ? "1 light" : `${doc.lights.length} lights`}
        </h3>
        <button
          className={`link link-hover text-xs ${below === "lights" ? "text-primary" : ""}`}
          aria-pressed={below === "lights"}
          title="All lights in a table, with their share of light and of rays. T"
          onClick={() => view.toggleBelow("lights")}
        >
          Table
        </button>
      </div>
      <ul aria-label="Lights">
        {shown.map(({ light, i }) => (
          <li key={i}>
            <div className={`group flex items-center gap-2 pl-0.5 text-sm ${open === i ? "bg-base-300/60" : "hover:bg-base-300/30"}`}>
              <span
                aria-hidden
                className="size-2.5 shrink-0 rounded-full"
                style={{
                  background: light.on ? cssColour(temperatureRgb(light.temperature).map((c, k) => c * light.tint[k]!)) : "transparent",
                  outline: "1px solid oklch(0.5 0 0)",
                }}
              />
              <button
                className={`flex min-w-0 flex-1 items-baseline gap-2 text-left ${light.on ? "" : "quiet line-through"}`}
                aria-expanded={open === i}
                onClick={() => view.setState({ lights: open === i ? [] : [i] })}
              >
                <span className="truncate" title={light.name}>
                  {light.name}
                </span>
                <span className="figures text-xs quiet">
                  {light.kind}
                  {light.kind === "profile" ? "" : `, ${Number(light.intensity.toPrecision(3))} ${unitText(light.unit, illuminance.short)}`}
                </span>
              </button>
              <SoloButton id={i} name={light.name} />
              <button
                className={`text-xs ${light.on ? "quiet opacity-0 group-hover:opacity-100 focus:opacity-100" : "text-primary"}`}
                aria-pressed={!light.on}
                aria-label={`Mute ${light.name}`}
                title="Turns it off and keeps its settings."
                onClick={() => store.getState().set((d) => changeLights(d, [i], (l) => ({ on: !l.on })))}
              >
                {light.on ? "mute" : "muted"}
              </button>
            </div>
            {open === i && <LightFields light={light} index={i} />}
          </li>
        ))}
      </ul>
      {doc.lights.length > MAX_LINES && <p className="text-xs quiet">… and {doc.lights.length - MAX_LINES} more in the table</p>}
      <label
        className="grid grid-cols-[8.2rem_1fr] items-center gap-x-2 pt-1 text-sm"
        title="A new light above what you look at, inside the room."
      >
        <span className="quiet">Add a light</span>
        <select
          aria-label="Add a light"
          className="select select-xs w-full"
          value=""
          disabled={doc.lights.length >= LIMITS.lights}
          onChange={(e) => {
            if (e.target.value === "profile") document.getElementById("new-profile")?.click();
            else add(newLight(doc, e.target.value as PlainKind, sightNow(bench)));
          }}
        >
          <option value="">…</option>
          {LIGHT_KINDS.map(([kind, words]) => (
            <option key={kind} value={kind}>
              {words}
            </option>
          ))}
          <option value="profile">by a photometric profile (IES) …</option>
        </select>
      </label>
      <input
        id="new-profile"
        type="file"
        accept=".ies,.IES"
        aria-label="Photometric profile of a new light"
        className="hidden"
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (file) void addProfile(file);
          e.target.value = "";
        }}
      />
      {problem && (
        <p role="alert" className="text-xs break-words text-error">
          {problem}
        </p>
      )}
    </>
  );
}
