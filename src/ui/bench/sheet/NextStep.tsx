/** A line above the sheet that leads on until there are set, light and air. */
import { useRef } from "react";
import { useStore } from "zustand";
import { useBench, useScene, useView } from "../model/context";
import { pickedFiles, SET_FILES } from "../model/incoming";
import { nextStep, stoodInside, type Step } from "../model/next-step";

export function NextStep() {
  const { store, view, rooms, incoming } = useBench();
  const doc = useScene();
  const known = useStore(rooms);
  const declined = useView((s) => s.declined);
  const findings = useView((s) => s.findings);
  const tool = useView((s) => s.tool);
  const presets = useView((s) => s.presets && s.open === "air");
  const bringing = useStore(incoming, (s) => s.phase !== "none");
  const files = useRef<HTMLInputElement>(null);
  const step = nextStep(doc, known, declined, findings);
  // what is under way already needs no telling
  if (!step || bringing || (step.id === "shine" && tool === "shine") || (step.id === "air" && presets)) return null;
  const act: Record<Step["id"], () => void> = {
    set: () => files.current?.click(),
    inside: () => known.other && store.getState().set((d) => stoodInside(d, known.other!.stand)),
    light: () => store.getState().set((d) => ({ ...d, sun: { ...d.sun, on: true }, sky: { ...d.sky, on: true } })),
    shine: () => {
      view.setState({ lights: ["sun"] });
      view.setState({ tool: "shine" });
    },
    mend: () => step.apply && store.getState().set(step.apply),
    air: () => view.setState({ open: "air", presets: true }),
  };
  return (
    <section aria-label="Next step" data-step={step.id} className="border-b hair">
      <div className="space-y-1.5 border-l-2 border-primary bg-base-200 px-3 py-2">
        <p className="text-sm">{step.says}</p>
        <div className="flex items-center gap-3">
          <button className="btn btn-xs btn-primary" onClick={act[step.id]}>
            {step.does}
          </button>
          {step.declines && (
            <button className="link text-xs quiet" onClick={() => view.setState({ declined: [...declined, step.id] })}>
              {step.declines}
            </button>
          )}
        </div>
        {step.id === "set" && (
          <input
            ref={files}
            type="file"
            multiple
            aria-label="Files of a first set"
            className="hidden"
            accept={SET_FILES}
            onChange={(e) => {
              if (e.target.files?.length) void incoming.read(pickedFiles(e.target.files));
              e.target.value = "";
            }}
          />
        )}
      </div>
    </section>
  );
}
