/** Whether other machines take part in what is rendered here, and where they come in: said by the environment. */
import { hostname } from "node:os";
import { InputError } from "#core/errors";
import { redisAddress } from "#machines/address";
import { tokenOf } from "#machines/door";

export interface MachinesConfig {
  redis: string;
  token: string;
  /** What the door for workers is bound to: this machine alone where nothing else is said. */
  host: string;
  port: number;
  /** Address by which workers reach it; null: by host and port. */
  url: string | null;
}

const HOST = "127.0.0.1";
const PORT = 4681;
/** Names for all addresses of a machine. */
const ALL = new Set(["0.0.0.0", "::"]);

/** Whether the environment asks for other machines. */
export const asksForMachines = (env: NodeJS.ProcessEnv = process.env): boolean => (env.FUMARIUM_REDIS ?? "") !== "";

/** @returns null where only this machine renders @throws InputError */
export function machinesConfig(env: NodeJS.ProcessEnv = process.env): MachinesConfig | null {
  if (!asksForMachines(env)) return null;
  const redis = redisAddress(env.FUMARIUM_REDIS ?? "", "FUMARIUM_REDIS");
  const token = tokenOf(env.FUMARIUM_TOKEN, "FUMARIUM_REDIS");
  const port = Number(env.FUMARIUM_WORKER_PORT ?? PORT);
  if (!Number.isInteger(port) || port < 0 || port > 65535)
    throw new InputError(`FUMARIUM_WORKER_PORT ${env.FUMARIUM_WORKER_PORT}: must be a port from 0 to 65535`);
  const url = env.FUMARIUM_WORKER_URL ?? null;
  if (url !== null && !(URL.canParse(url) && /^https?:$/.test(new URL(url).protocol)))
    throw new InputError(`FUMARIUM_WORKER_URL ${url}: must be an address such as http://this-machine:${PORT}`);
  return { redis, token, host: env.FUMARIUM_WORKER_HOST ?? HOST, port, url };
}

/** Where workers find a door. */
export function doorAddress({ host, url }: MachinesConfig, port: number): string {
  if (url !== null) return url;
  const name = ALL.has(host) ? hostname() : host.includes(":") ? `[${host}]` : host;
  return `http://${name}:${port}`;
}
