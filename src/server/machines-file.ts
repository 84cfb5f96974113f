/** What the process that hands out tells of other machines, beside the renders: the web server reads it. */
import { readFile } from "node:fs/promises";
import { join } from "node:path";
import { machinesNow, type MachinesNow } from "#api/contract";
import { asksForMachines } from "./machines-config";
import { writeBeside } from "./now-file";

export const MACHINES_FILE = "machines.json";
/** Milliseconds after which what is told is old. */
const OLD = 10_000;

const nobody = (trouble: string): MachinesNow => ({
  ...{ redis: "", trouble, warnings: [], url: null, threads: 0, machines: [], received: 0, sent: 0 },
});

/** Tells of machines that nobody can reach. */
export const tellTrouble = async (folder: string, trouble: string): Promise<void> => {
  await writeBeside(folder, MACHINES_FILE, JSON.stringify({ at: Date.now(), state: nobody(trouble) }));
};

/** @param folder of the renders @returns null where only this machine renders */
export async function readMachines(folder: string, now = Date.now()): Promise<MachinesNow | null> {
  if (!asksForMachines()) return null;
  try {
    const { at, state } = JSON.parse(await readFile(join(folder, MACHINES_FILE), "utf8")) as { at: number; state: unknown };
    const parsed = machinesNow.parse(state);
    // a trouble that cannot pass stays told
    if (now - at < OLD || parsed.url === null) return parsed;
    return { ...parsed, trouble: "The process that hands out does not answer." };
  } catch {
    return nobody("The process that hands out is being started.");
  }
}
