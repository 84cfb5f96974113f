/** The process that renders, where other machines take part: hands out, tells of it, and takes orders about machines. */
import type { MachinesNow } from "#api/contract";
import { shownAddress } from "#machines/address";
import { clockWords } from "#machines/fleet";
import { Door } from "#machines/door";
import { Office } from "#machines/office";
import { Post } from "#machines/post";
import { Spread, type SpreadOf } from "#machines/spread";
import { Pace } from "#machines/trial";
import type { Workshop } from "#finals/workshop";
import type { BlobStore } from "./blobs";
import { doorAddress, type MachinesConfig } from "./machines-config";
import { MACHINES_FILE } from "./machines-file";
import { writeBeside } from "./now-file";

/** Milliseconds between what is told of it, and between notices. */
const TELL = 1000;
const NOTICE = 4000;

export class MachinesHost {
  private readonly timers: ReturnType<typeof setInterval>[] = [];
  private writing: Promise<unknown> = Promise.resolve();

  private constructor(
    private readonly config: MachinesConfig,
    private readonly workshop: Workshop,
    private readonly office: Office,
    private readonly door: Door,
    private readonly folder: string,
  ) {}

  /** @param folder of the renders @throws InputError where it cannot be set up */
  static async open(config: MachinesConfig, workshop: Workshop, blobs: BlobStore, folder: string): Promise<MachinesHost> {
    const office = new Office(new Post(config.redis), workshop.kernel, await Pace.of(workshop));
    try {
      const files = async (hash: string): Promise<Uint8Array | null> => (blobs.has(hash) ? blobs.read(hash) : null);
      const door = await Door.open(office, config.token, files, config.host, config.port);
      const host = new MachinesHost(config, workshop, office, door, folder);
      host.begin();
      return host;
    } catch (error) {
      office.close();
      await office.post.close();
      throw error;
    }
  }

  private begin(): void {
    const url = doorAddress(this.config, this.door.port);
    const notice = (): void => void this.office.post.putUp({ url, kernel: this.workshop.kernel }).catch(() => undefined);
    const ready = this.office.post.back;
    this.office.post.back = () => {
      ready();
      notice();
    };
    this.timers.push(
      setInterval(notice, NOTICE),
      setInterval(() => this.tell(url), TELL),
    );
  }

  private tell(url: string): void {
    const text = JSON.stringify({ at: Date.now(), state: this.state(url) });
    this.writing = this.writing.then(() => writeBeside(this.folder, MACHINES_FILE, text)).catch(() => undefined);
  }

  private state(url: string): MachinesNow {
    const { fleet, post, traffic } = this.office;
    return {
      redis: shownAddress(post.address),
      trouble: post.trouble,
      warnings: post.warning === null ? [] : [post.warning],
      url,
      threads: fleet.threads(),
      received: traffic.received,
      sent: traffic.sent,
      machines: [...fleet.machines.values()]
        .sort((a, b) => a.name.localeCompare(b.name))
        .map(({ name, host, threads, speed, standing, words, says, units, done, seconds, heard, ahead, faults }) => ({
          ...{ name, host, threads, speed, standing, words, says, done, seconds, faults },
          units: units.size,
          silent: Math.max(0, Date.now() - heard) / 1000,
          clock: clockWords(ahead),
        })),
    };
  }

  dismiss(name: string, how: "drain" | "remove"): void {
    this.office.dismiss(name, how);
  }

  /** Whether machines soon have nothing to do: another frame may begin. */
  low(): boolean {
    return this.office.low();
  }

  /** Why nothing goes on; null where it does. */
  idleWords(): string | null {
    if (this.office.post.trouble !== null) return `waits: ${this.office.post.trouble}`;
    return this.office.fleet.working().length === 0 ? "waits for machines" : null;
  }

  runner(of: SpreadOf): Spread {
    return new Spread(this.office, this.workshop, of);
  }

  async close(): Promise<void> {
    for (const timer of this.timers) clearInterval(timer);
    await this.office.post.takeDown();
    this.office.close();
    await this.door.close();
    await this.office.post.close();
    await this.writing;
  }
}
