/** What frames of finals share on a machine: its engine, the scene that was built last, the clean-up's workers. */
import { createHash } from "node:crypto";
import { readFileSync } from "node:fs";
import { availableParallelism } from "node:os";
import { join } from "node:path";
import type { SceneDocument } from "#core/document/schema";
import { compileScene } from "#core/scene/compile";
import type { CompiledGeometry, Resources } from "#core/scene/compiled";
import { geometryKey } from "#core/scene/keys";
import { CleanPool } from "#engine/clean-pool";
import { RenderEngine } from "#engine/engine";
import { nodeCleanHost } from "#engine/node-clean";
import { nodeHost } from "#engine/node-host";

export class Workshop {
  private geometry: { key: string; is: Promise<CompiledGeometry> } | null = null;
  private pool: CleanPool | null = null;
  private turn: Promise<unknown> = Promise.resolve();
  /** Names the kernel: a hash. */
  readonly kernel: string;

  private constructor(
    readonly engine: RenderEngine,
    private readonly buildDirectory: string,
    private readonly threads: number,
  ) {
    this.kernel = kernelHash(buildDirectory);
  }

  /** @param buildDirectory what the build made @throws Error where a worker cannot start */
  static async create(buildDirectory: string, threads = availableParallelism()): Promise<Workshop> {
    return new Workshop(await RenderEngine.create(nodeHost(buildDirectory, threads)), buildDirectory, threads);
  }

  /** The scene of a document, built anew only where it differs from the last. @throws what reading its resources throws */
  async geometryOf(
    doc: SceneDocument,
    resources: (doc: SceneDocument) => Promise<Resources>,
    says?: (line: string) => void,
  ): Promise<CompiledGeometry> {
    const key = geometryKey(doc);
    if (this.geometry?.key !== key) {
      says?.("reading models and building the scene");
      const is = resources(doc).then((r) => compileScene(doc, r));
      const made = (this.geometry = { key, is });
      is.catch(() => {
        // what could not be read may be there the next time
        if (this.geometry === made) this.geometry = null;
      });
    }
    return this.geometry.is;
  }

  /** Lets the engine do something alone, with a scene: one at a time. */
  async alone<T>(geometry: CompiledGeometry, work: (engine: RenderEngine) => Promise<T>): Promise<T> {
    const own = this.turn.then(() => {
      this.engine.setGeometry(geometry);
      return work(this.engine);
    });
    this.turn = own.catch(() => undefined);
    return own;
  }

  cleaner(): CleanPool {
    return (this.pool ??= new CleanPool(nodeCleanHost(this.buildDirectory, this.threads)));
  }

  dispose(): void {
    this.pool?.dispose();
    this.engine.dispose();
  }
}

/** Names the kernel of a build. */
export const kernelHash = (buildDirectory: string): string =>
  createHash("sha256")
    .update(readFileSync(join(buildDirectory, "kernel", "kernel.shared.wasm")))
    .digest("hex");
