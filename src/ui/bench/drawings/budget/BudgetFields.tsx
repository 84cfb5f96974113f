/** What a frame may take, on which machine, and which final is meant. */
import { useMemo } from "react";
import { useStore } from "zustand";
import { useShallow } from "zustand/react/shallow";
import { secondsAllowed, type Budget } from "#core/document/budget";
import { formatNumber } from "#core/document/quantities";
import { LIMITS } from "#core/document/schema";
import { Select } from "../../../shared/controls";
import { Num } from "../../../shared/Num";
import { useBench, useDocument } from "../../model/context";
import { Column } from "../final/Fields";

/** What a budget says where it is first set. */
const MINUTES = 10,
  NOISE = 0.02;

export function BudgetFields() {
  const { store, price } = useBench();
  const doc = useDocument();
  const here = useStore(price.state, (s) => s.record?.threads ?? null);
  const fleet = useStore(price.state, (s) => s.record?.fleet ?? null);
  const { budget, film, render } = doc;
  const set = (change: Partial<Budget>): void => store.getState().set((d) => ({ ...d, budget: { ...d.budget, ...change } }));
  const { limit, size, noise } = budget;
  const own = budget.threads !== null || budget.speed !== 1;
  return (
    <div className="grid max-w-5xl grid-cols-3 gap-x-8">
      <Column title="May take">
        <Select
          label="Limit"
          value={limit?.kind ?? "none"}
          options={[
            ["none", "none"],
            ["frame", "per frame"],
            ["by", "by a time of day"],
          ]}
          tooltip="What the price of the final is held against."
          onChange={(kind) =>
            set({
              limit: kind === "none" ? null : kind === "frame" ? { kind, minutes: MINUTES } : { kind, frames: 100, time: "08:00" },
            })
          }
        />
        {limit?.kind === "frame" && (
          <Num
            label="Minutes per frame"
            unit="min"
            value={limit.minutes}
            min={0.01}
            max={1e6}
            useful={[0.2, 240]}
            logarithmic
            reset={MINUTES}
            tooltip="Time that one frame may take on the machine that renders."
            onChange={(minutes) => set({ limit: { kind: "frame", minutes } })}
          />
        )}
        {limit?.kind === "by" && (
          <>
            <Num
              label="Frames"
              quantity="count"
              value={limit.frames}
              min={1}
              max={10_000}
              useful={[1, 1000]}
              logarithmic
              whole
              reset={100}
              tooltip="Frames that must be there by then."
              onChange={(frames) => set({ limit: { ...limit, frames } })}
            />
            <label
              className="flex items-center justify-between gap-2 text-sm"
              title="When they next must be there, by the clock of this machine."
            >
              <span className="quiet">By</span>
              <input
                type="time"
                aria-label="By"
                className="input input-xs figures w-24"
                value={limit.time}
                onChange={(e) => e.target.value !== "" && set({ limit: { ...limit, time: e.target.value.slice(0, 5) } })}
              />
            </label>
          </>
        )}
      </Column>
      <Column title="Which final">
        <Select
          label="Size"
          value={size === null ? "document" : "own"}
          options={[
            ["document", film.size.join(" × ")],
            ["own", "another"],
          ]}
          tooltip="Pixels of the final whose price is told."
          onChange={(of) =>
            set({ size: of === "document" ? null : [Math.min(LIMITS.side, 2 * film.size[0]), Math.min(LIMITS.side, 2 * film.size[1])] })
          }
        />
        {size && (
          <Num
            label="Width"
            quantity="count"
            unit="px"
            value={size[0]}
            min={1}
            max={LIMITS.side}
            useful={[320, 8192]}
            logarithmic
            whole
            reset={film.size[0]}
            tooltip="The height follows in the frame's shape."
            onChange={(width) =>
              set({ size: [width, Math.max(1, Math.min(LIMITS.side, Math.round((width * film.size[1]) / film.size[0])))] })
            }
          />
        )}
        <Select
          label="Done at"
          value={noise === null ? "document" : noise.of}
          options={[
            ["document", render.noiseThreshold === null ? `${render.samples} samples` : "own threshold"],
            ["rendered", "raw noise"],
            ["cleaned", "cleaned noise"],
          ]}
          tooltip={`When the final is done. A noise threshold ends parts of the frame before ${render.samples} samples.`}
          onChange={(of) =>
            set({ noise: of === "document" ? null : { of, threshold: noise?.threshold ?? render.noiseThreshold ?? NOISE } })
          }
        />
        {noise && (
          <Num
            label="Noise threshold"
            quantity="share"
            value={noise.threshold}
            min={0.0005}
            max={1}
            useful={[0.002, 0.2]}
            logarithmic
            reset={NOISE}
            tooltip="Standard error of a pixel as a share of its brightness."
            onChange={(threshold) => set({ noise: { ...noise, threshold } })}
          />
        )}
      </Column>
      <Column title="Machine">
        <Select
          label="Renders on"
          value={own ? "other" : "this"}
          options={[
            ["this", fleet ? "machines here" : "this machine"],
            ["other", "another"],
          ]}
          tooltip="The machine that the price counts for. This one's speed is learned from its finals."
          onChange={(of) => set(of === "this" ? { threads: null, speed: 1 } : { threads: 16, speed: 1 })}
        />
        {!own && fleet && <FleetWords />}
        {own && (
          <>
            <Num
              label="Threads"
              quantity="count"
              value={budget.threads ?? here ?? 1}
              min={1}
              max={4096}
              useful={[1, 256]}
              logarithmic
              whole
              reset={16}
              tooltip="Threads that render there."
              onChange={(threads) => set({ threads })}
            />
            <Num
              label="Speed of a thread"
              unit="×"
              value={budget.speed}
              min={0.01}
              max={1000}
              useful={[0.25, 4]}
              logarithmic
              reset={1}
              tooltip="How many times as fast a thread of it is as one of this machine."
              onChange={(speed) => set({ speed })}
            />
          </>
        )}
      </Column>
    </div>
  );
}

/** What the machines of this server make of the budget. */
function FleetWords() {
  const { price } = useBench();
  const doc = useDocument();
  const { fleet, threads } = useStore(
    price.state,
    useShallow((s) => ({ fleet: s.record?.fleet ?? null, threads: s.record?.threads ?? 1 })),
  );
  const known = useStore(price.state, (s) => s.price);
  const frame = useStore(price.state, (s) => s.frame);
  const told = useMemo(() => {
    const { limit } = doc.budget;
    const frames = limit?.kind === "by" ? limit.frames : 1;
    const allowed = secondsAllowed(limit, new Date());
    if (!known || !fleet || allowed === null) return null;
    return { frames, allowed, needed: price.machinesFor(allowed * frames, frames) };
    // the price is asked of what is known, the document and the machines
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [doc.budget, known, fleet, frame, price]);
  if (!fleet) return null;
  return (
    <p className="figures mt-1 text-xs quiet" title={`Samples are spread over them; the clean-up is done here by ${threads} threads.`}>
      {fleet.machines === 1 ? "1 machine takes" : `${fleet.machines} machines take`} part, as fast as {formatNumber(fleet.threads, 3)}{" "}
      threads of this one.
      {told &&
        (told.needed === null
          ? " No number of them keeps this limit: the scene is built and frames are cleaned one after the other."
          : ` ${told.needed === 1 ? "One such machine keeps" : `${told.needed} such machines keep`} this limit${told.frames > 1 ? ` for ${told.frames} frames` : ""}.`)}
    </p>
  );
}
