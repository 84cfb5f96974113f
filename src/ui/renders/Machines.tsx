/** The machines that take part in renders: how fast, what they do, what went wrong, and how one is let go. */
import { useEffect, useState } from "react";
import { API, call, type MachineNow, type MachinesNow } from "#api/contract";
import { bytesText, durationText, formatNumber } from "#core/document/quantities";
import { request } from "../shared/api";
import { Problem } from "../shared/Problem";

/** Milliseconds between looks. */
const LOOK = 2000;
/** Faults that are told of each. */
const FAULTS = 3;

const STANDING: Readonly<Record<MachineNow["standing"], string>> = {
  works: "at work",
  drains: "finishes its units",
  left: "gone",
  silent: "silent",
  refused: "other version",
  faulty: "not trusted",
};

export interface MachinesSeen {
  /** Null: only this machine renders. Undefined: not known yet. */
  machines: MachinesNow | null | undefined;
  problem: string | null;
  look(): void;
}

/** The machines that take part, asked for again and again. */
export function useMachines(): MachinesSeen {
  const [machines, setMachines] = useState<MachinesNow | null | undefined>(undefined);
  const [problem, setProblem] = useState<string | null>(null);
  const [turn, setTurn] = useState(0);
  useEffect(() => {
    let current = true;
    let timer: ReturnType<typeof setTimeout> | undefined;
    call(request, API.machines, {}).then(
      ({ machines: now }) => {
        if (!current) return;
        setMachines(now);
        setProblem(null);
        // whether others take part is settled when the server starts
        if (now !== null) timer = setTimeout(() => setTurn((t) => t + 1), LOOK);
      },
      (error: unknown) => {
        if (!current) return;
        setProblem((error as Error).message);
        timer = setTimeout(() => setTurn((t) => t + 1), LOOK);
      },
    );
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [turn]);
  return { machines, problem, look: () => setTurn((t) => t + 1) };
}

export function Machines({ seen: { machines: now, problem, look } }: { seen: MachinesSeen }) {
  const [failed, setFailed] = useState<string | null>(null);
  const dismiss = async (name: string, how: "drain" | "remove"): Promise<void> => {
    try {
      await call(request, API.dismissMachine, { name }, { how });
      setFailed(null);
      look();
    } catch (error) {
      setFailed((error as Error).message);
    }
  };
  if (problem) return <Problem words={problem} again={look} />;
  if (!now) return null;
  const working = now.machines.filter((m) => m.standing === "works");
  return (
    <section aria-label="Machines" className="mt-6 border-b hair pb-4">
      <div className="flex flex-wrap items-baseline gap-4">
        <h2 className="text-lg font-semibold">Machines</h2>
        {now.url && (
          <p className="figures text-xs quiet">
            {working.length} at work, as fast as {formatNumber(now.threads, 3)} threads of this one · {bytesText(now.received)} received,{" "}
            {bytesText(now.sent)} sent
          </p>
        )}
        {now.redis && <p className="ml-auto text-xs quiet">by {now.redis}</p>}
      </div>
      {now.trouble && (
        <p role="alert" className="mt-2 border-l-2 border-warning pl-3 text-sm">
          {now.trouble}
        </p>
      )}
      {now.warnings.map((words) => (
        <p key={words} role="status" className="mt-2 border-l-2 border-warning pl-3 text-xs">
          {words}
        </p>
      ))}
      {failed && (
        <p role="alert" className="mt-2 text-sm text-error">
          {failed}
        </p>
      )}
      {now.url && now.machines.length === 0 && (
        <p className="mt-2 max-w-prose text-sm quiet">
          None takes part yet. On a machine with Fumarium and the same token, run{" "}
          <code className="select-all">npx fumarium worker --redis {now.redis}</code>.
        </p>
      )}
      {now.machines.length > 0 && (
        <table className="mt-2 w-full text-sm">
          <thead>
            <tr className="text-left text-xs quiet">
              <th className="py-1 font-normal">Name</th>
              <th className="font-normal" title="Threads that render there.">
                Threads
              </th>
              <th
                className="font-normal"
                title="How many times as fast a thread of it is as one of this machine, by a trial picture when it comes."
              >
                Speed
              </th>
              <th className="font-normal">State</th>
              <th className="font-normal" title="Units in hand, and done; a unit is some tiles of a frame.">
                Units
              </th>
              <th className="font-normal" title="Time of its threads that went into what it has done.">
                Worked
              </th>
              <th />
            </tr>
          </thead>
          <tbody>
            {now.machines.map((m) => (
              <Machine key={m.name} of={m} dismiss={(how) => void dismiss(m.name, how)} />
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

function Machine({ of: m, dismiss }: { of: MachineNow; dismiss(how: "drain" | "remove"): void }) {
  const trouble = m.standing === "silent" || m.standing === "refused" || m.standing === "faulty";
  const words = [m.words, m.clock].filter(Boolean).join("; ");
  return (
    <>
      <tr data-machine={m.name} data-standing={m.standing} className="border-t hair align-baseline">
        <th scope="row" className="py-1.5 text-left font-semibold">
          {m.name} {m.host !== m.name && <span className="text-xs font-normal quiet">on {m.host}</span>}
        </th>
        <td className="figures">{m.threads}</td>
        <td className="figures">×{formatNumber(m.speed, 3)}</td>
        <td className={trouble ? "text-warning" : m.standing === "works" ? "" : "quiet"}>
          {m.standing === "works" ? m.says : STANDING[m.standing]}
          {m.standing === "silent" && ` for ${durationText(m.silent)}`}
        </td>
        <td className="figures">
          {m.units} in hand, {m.done} done
        </td>
        <td className="figures">{durationText(m.seconds)}</td>
        <td className="text-right whitespace-nowrap">
          {m.standing === "works" && (
            <button
              className="btn btn-xs btn-outline hair"
              title="It finishes the units that it has, takes no more, and ends."
              aria-label={`Drain ${m.name}`}
              onClick={() => dismiss("drain")}
            >
              Drain
            </button>
          )}{" "}
          {m.standing !== "left" && m.standing !== "faulty" && (
            <button
              className="btn btn-xs btn-outline hair"
              title="It ends at once; what it has in hand is given to others."
              aria-label={`Remove ${m.name}`}
              onClick={() => dismiss("remove")}
            >
              Remove
            </button>
          )}
        </td>
      </tr>
      {(words || m.faults.length > 0) && (
        <tr className="text-xs">
          <td />
          <td colSpan={6} className="pb-1.5 quiet">
            {words && <p>{words}</p>}
            {m.faults.slice(-FAULTS).map((f) => (
              <p key={`${f.at} ${f.words}`}>
                {new Date(f.at).toLocaleTimeString()}: {f.words}
              </p>
            ))}
          </td>
        </tr>
      )}
    </>
  );
}
