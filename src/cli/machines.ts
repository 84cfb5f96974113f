/** fumarium machines: lists the workers of a server, and lets them go. */
import { API, call, type MachineNow } from "#api/contract";
import { durationText, formatNumber } from "#core/document/quantities";
import { InputError } from "#core/errors";
import { serverOf, transportTo } from "./queue";

export interface MachinesOptions {
  /** Address of the server. */
  server: string;
  action: string;
  names: readonly string[];
  json: boolean;
}

const ACTIONS = ["list", "drain", "remove"] as const;

/** @param print gets each line @throws InputError, ServerError */
export async function machinesCommand({ server, action, names, json }: MachinesOptions, print: (line: string) => void): Promise<void> {
  const how = ACTIONS.find((a) => a === action);
  if (!how) throw new InputError(`machines ${action}: must be one of ${ACTIONS.join(", ")}`);
  if (how === "list" && names.length > 0) throw new InputError("machines list: names none");
  if (how !== "list" && names.length === 0) throw new InputError(`machines ${action}: say which, as the list names it`);
  const transport = transportTo(serverOf(server));
  const { machines: now } = await call(transport, API.machines, {});
  if (now === null) throw new InputError(`${server}: renders alone; FUMARIUM_REDIS lets other machines take part`);
  if (how !== "list") {
    const unknown = names.find((name) => !now.machines.some((m) => m.name === name));
    if (unknown !== undefined) throw new InputError(`machines: there is none named ${unknown}`);
    for (const name of names) {
      await call(transport, API.dismissMachine, { name }, { how });
      print(`${name}: ${how}`);
    }
    return;
  }
  if (json) return print(JSON.stringify(now));
  for (const words of [now.trouble, ...now.warnings]) if (words !== null) print(words);
  for (const m of now.machines) print(lineOf(m));
  if (now.machines.length === 0) print("No machine takes part.");
}

/** A machine in a line: name, standing, threads and speed, units, what it worked, what there is to say. */
function lineOf(m: MachineNow): string {
  const words = [m.words, m.clock, m.faults.at(-1)?.words].filter(Boolean).join("; ");
  return [
    m.name.padEnd(12),
    (m.standing === "works" ? m.says : m.standing).padEnd(9),
    `${m.threads} thread${m.threads === 1 ? "" : "s"} at ×${formatNumber(m.speed, 3)}`,
    `${m.units} units in hand, ${m.done} done in ${durationText(m.seconds)}${words ? ` (${words})` : ""}`,
  ].join("  ");
}
