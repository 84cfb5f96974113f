/** The sheet at the left, in the order of work: Set, Lights, Air, Finish. What is chosen opens under its own line. */
import type { ReactNode } from "react";
import { useShallow } from "zustand/react/shallow";
import type { SceneDocument } from "#core/document/schema";
import { useBench, useDocument, useView } from "../model/context";
import { NextStep } from "./NextStep";
import { SetPart } from "./SetPart";
import { LightsPart } from "./LightsPart";
import { AirPart } from "./AirPart";
import { FinishPart } from "./FinishPart";

function Part(p: { id: string; title: string; summary: string; warns?: string | null; children: ReactNode }) {
  const { view } = useBench();
  const open = useView((s) => s.open === p.id);
  return (
    <section className="border-b hair">
      <h2>
        <button
          className="flex w-full items-baseline justify-between gap-3 px-3 py-2 text-left hover:bg-base-300/40"
          aria-expanded={open}
          aria-controls={`part-${p.id}`}
          onClick={() => view.setState({ open: open ? "" : p.id })}
        >
          <span className="text-[0.95rem] font-semibold">{p.title}</span>
          <span className="figures truncate text-xs quiet">
            {p.warns && <span className="mr-2 text-warning">{p.warns}</span>}
            {p.summary}
          </span>
        </button>
      </h2>
      {open && (
        <div id={`part-${p.id}`} className="space-y-1.5 px-3 pt-0.5 pb-4">
          {p.children}
        </div>
      )}
    </section>
  );
}

/** What the head of each part says about it. */
const summaries = (doc: SceneDocument) => {
  const [air] = doc.air;
  return {
    set: `${doc.objects.length} ${doc.objects.length === 1 ? "object" : "objects"}, ${doc.camera.kind}`,
    lights: `${doc.sun.on ? "sun " : ""}${doc.sky.on ? "sky " : ""}${doc.lights.length || ""}`,
    air: air ? (doc.air.length > 1 ? `${doc.air.length} media` : air.on ? air.name : `${air.name}, muted`) : "clear",
    finish: `EV ${doc.film.exposure.toFixed(1)}`,
  };
};

export function Sheet() {
  const words = useDocument(useShallow(summaries));
  const wrong = useView((s) => s.findings.length);
  return (
    <nav
      id="sheet"
      tabIndex={-1}
      aria-label="Sheet"
      className="outline-none relative w-[308px] shrink-0 overflow-y-auto border-r hair bg-base-100"
    >
      <NextStep />
      <Part id="set" title="Set" summary={words.set}>
        <SetPart />
      </Part>
      <Part id="lights" title="Lights" summary={words.lights}>
        <LightsPart />
      </Part>
      <Part id="air" title="Air" warns={wrong > 0 ? `${wrong} to look at` : null} summary={words.air}>
        <AirPart />
      </Part>
      <Part id="finish" title="Finish" summary={words.finish}>
        <FinishPart />
      </Part>
    </nav>
  );
}
