/** The bench: loads a project and puts its parts together. */
import { lazy, Suspense, useEffect, useState, type ComponentType } from "react";
import { GestureContext } from "../shared/gesture";
import { UnitsContext } from "../shared/units";
import { ProbeTable } from "./drawings/ProbeTable";
import { LightsDrawing } from "./drawings/LightsDrawing";
import { BudgetLine } from "./BudgetLine";
import { Finder } from "./Finder";
import { Header } from "./Header";
import { Keys } from "./Keys";
import { LatestPicture } from "./LatestPicture";
import { BenchContext, useDocument, useView } from "./model/context";
import { openBench, type OpenBench } from "./model/open-bench";
import type { Below } from "./model/view";
import { Panes } from "./Panes";
import { ProofStrip } from "./ProofStrip";
import { DiagnosisRunner } from "./sheet/air/Diagnosis";
import { Sheet } from "./sheet/Sheet";
import { StatusLine } from "./StatusLine";
import { DropZone } from "./viewport/DropZone";
import { Picture } from "./viewport/Picture";

export default function BenchPage({ projectId }: { projectId: string }) {
  const [open, setOpen] = useState<OpenBench | null>(null);
  const [problem, setProblem] = useState<string | null>(null);

  useEffect(() => {
    let opened: OpenBench | null = null;
    let gone = false;
    void (async () => {
      try {
        opened = await openBench(projectId);
        if (gone) return opened.dispose();
        setOpen(opened);
        await opened.start();
      } catch (error) {
        if (!gone) setProblem((error as Error).message);
      }
    })();
    return () => {
      gone = true;
      opened?.dispose();
    };
  }, [projectId]);

  if (problem)
    return (
      <main className="mx-auto flex h-full max-w-xl flex-col justify-center gap-3 p-8">
        <h1 className="text-xl font-semibold">This project cannot be opened</h1>
        <p className="text-sm whitespace-pre-wrap">{problem}</p>
        <p>
          <a className="link text-primary" href="/">
            Back to the shelf
          </a>
        </p>
      </main>
    );
  if (!open)
    return (
      <main className="flex h-full items-center justify-center text-sm quiet" role="status">
        Opening the project …
      </main>
    );
  return (
    <BenchContext.Provider value={open.bench}>
      <GestureContext.Provider value={open.bench.store.gesture}>
        <Parts autosave={open.autosave} />
      </GestureContext.Provider>
    </BenchContext.Provider>
  );
}

/** What the bench is made of; of the picture alone, nothing else is seen. */
function Parts({ autosave }: Pick<OpenBench, "autosave">) {
  const alone = useView((s) => s.alone);
  const units = useDocument((d) => d.units);
  return (
    <UnitsContext.Provider value={units}>
      <div className="flex h-full flex-col">
        {!alone && <Panes />}
        {!alone && <Header autosave={autosave} />}
        <div className="flex min-h-0 flex-1">
          {!alone && <Sheet />}
          <main className="flex min-w-0 flex-1 flex-col">
            <Picture />
            {!alone && <Drawing />}
            {!alone && <BudgetLine />}
            {!alone && <StatusLine />}
          </main>
          {!alone && <ProofStrip />}
        </div>
        {alone && (
          <p role="status" className="sr-only">
            The picture alone. Z or Escape brings everything back.
          </p>
        )}
        <Keys />
        <Finder />
        <LatestPicture />
        <DiagnosisRunner />
        <DropZone />
      </div>
    </UnitsContext.Provider>
  );
}

const SectionView = lazy(() => import("./drawings/section/SectionView"));
const BudgetView = lazy(() => import("./drawings/BudgetView"));
const FinalOrder = lazy(() => import("./drawings/FinalOrder"));
const PassStrip = lazy(() => import("./drawings/PassStrip"));
const WedgeTable = lazy(() => import("./drawings/WedgeTable"));
// three.js comes with it: loaded when first asked for
const SpaceView = lazy(() => import("./drawings/space/SpaceView"));

const DRAWINGS = {
  budget: BudgetView,
  final: FinalOrder,
  lights: LightsDrawing,
  passes: PassStrip,
  probes: ProbeTable,
  section: SectionView,
  space: SpaceView,
  wedges: WedgeTable,
} satisfies Record<Below, ComponentType>;

/** The drawing under the picture. */
function Drawing() {
  const below = useView((s) => s.below);
  if (below === null) return null;
  const Shown = DRAWINGS[below];
  return (
    <Suspense fallback={<p className="flex h-[44%] shrink-0 items-center justify-center border-t hair text-sm quiet">Setting up …</p>}>
      <Shown />
    </Suspense>
  );
}
