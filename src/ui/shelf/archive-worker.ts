/** Takes a project file apart in a thread of its own. */
import { assetOf } from "#core/document/assets";
import { expose, transfer } from "comlink";
import type { SceneDocument } from "#core/document/schema";
import { readArchive } from "#core/exchange/archive";
import type { AssetUse } from "#core/document/assets";

const api = {
  async open(
    file: File,
  ): Promise<{ document: SceneDocument; assets: { name: string; bytes: Uint8Array; use: AssetUse | null; sha256: string }[] }> {
    const { document, assets } = readArchive(new Uint8Array(await file.arrayBuffer()), file.name, (b) => new TextDecoder().decode(b));
    const out = await Promise.all(
      [...assets].map(async ([name, { bytes, use }]) => {
        const own = bytes.slice();
        const hash = new Uint8Array(await crypto.subtle.digest("SHA-256", own));
        const sha256 = [...hash].map((b) => b.toString(16).padStart(2, "0")).join("");
        const said = assetOf(document, name).sha256;
        if (said && said !== sha256)
          throw new Error(
            `${file.name}: assets.${name} is not the file that the document was made with (its hash is ${sha256.slice(0, 12)}…)`,
          );
        return { name, bytes: own, use, sha256 };
      }),
    );
    return transfer(
      { document, assets: out },
      out.map((a) => a.bytes.buffer),
    );
  },
};
export type ArchiveWorker = typeof api;
expose(api);
