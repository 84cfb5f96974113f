/** Files of the composed picture, and the stack itself. */
import { useState } from "react";
import type { Shown } from "#core/formats/shown";
import { RequestError } from "../shared/api";
import { saveFile } from "../shared/save-file";
import { Fold } from "./Fold";
import type { ExportKind } from "./model/compose-worker";
import { useComposition, useStack } from "./model/context";
import { SourcesFields } from "./SourcesFields";

const FILES = [
  { kind: "exr", words: "OpenEXR", ending: ".exr", tooltip: "Linear light in cd/m², before exposure and finish." },
  {
    kind: "layers",
    words: "OpenEXR with layers",
    ending: ".layers.exr",
    tooltip: "With what each layer lays, and its mask, as layers of their own.",
  },
  { kind: "png8", words: "PNG, 8 bit", ending: ".png", tooltip: "Finished as it is seen, dithered." },
  { kind: "png16", words: "PNG, 16 bit", ending: ".16.png", tooltip: "Finished as it is seen." },
  { kind: "tif8", words: "TIFF, 8 bit", ending: ".tif", tooltip: "Finished as it is seen, dithered." },
  { kind: "tif16", words: "TIFF, 16 bit", ending: ".16.tif", tooltip: "Finished as it is seen." },
] as const satisfies readonly { kind: ExportKind; words: string; ending: string; tooltip: string }[];

const TYPES = { exr: "image/x-exr", png: "image/png", tif: "image/tiff" } as const;
const fileName = (title: string): string => title.replace(/[^\p{L}\p{N}]+/gu, "-").replace(/^-+|-+$/g, "") || "stack";

/** A TIFF by the server: browsers have no writer of their own. */
async function tiffOf({ width, height, depth, values }: Shown, title: string): Promise<Uint8Array> {
  const bytes = new Blob([new Uint8Array(values.buffer as ArrayBuffer, values.byteOffset, values.byteLength)]);
  const query = new URLSearchParams({ width: String(width), height: String(height), depth: String(depth), title });
  const answer = await fetch(`/api/stacks/tiff?${query}`, {
    method: "POST",
    body: bytes,
    headers: { "content-type": "application/octet-stream" },
  });
  if (!answer.ok) {
    const said = (await answer.json().catch(() => null)) as { error?: string } | null;
    throw new RequestError(said?.error ?? `The server answered ${answer.status}.`, answer.status);
  }
  return new Uint8Array(await answer.arrayBuffer());
}

export function ExportFields() {
  const composition = useComposition();
  const stack = useStack();
  const [busy, setBusy] = useState<{ kind: string; share: number } | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const name = fileName(stack.title);
  const act = async (kind: string, work: () => Promise<void>): Promise<void> => {
    setBusy({ kind, share: 0 });
    setProblem(null);
    try {
      await work();
    } catch (error) {
      const { message } = error as Error;
      if (message !== "The export was cancelled.") setProblem(`Nothing was written: ${message}`);
    } finally {
      setBusy(null);
    }
  };
  const write = (kind: ExportKind, ending: string): Promise<void> =>
    act(kind, async () => {
      const made = await composition.export(kind, (share) => setBusy({ kind, share }));
      const bytes = "bytes" in made ? made.bytes : await tiffOf(made.shown, stack.title);
      saveFile(bytes as Uint8Array<ArrayBuffer>, `${name}${ending}`, TYPES[ending.slice(-3) as keyof typeof TYPES]);
    });
  return (
    <>
      <SourcesFields />
      <Fold title="Export" says="at full size">
        <div className="grid grid-cols-2 gap-2">
          {FILES.map(({ kind, words, ending, tooltip }) => (
            <button
              key={kind}
              className="btn btn-xs btn-outline hair"
              disabled={busy !== null}
              title={tooltip}
              onClick={() => void write(kind, ending)}
            >
              {busy?.kind === kind ? `${Math.round(100 * busy.share)} %` : words}
            </button>
          ))}
          <button
            className="btn btn-xs btn-outline hair"
            disabled={busy !== null}
            title="The stack with the pictures that it is of, in one zip, which the shelf and the shell open again."
            onClick={() =>
              void act("zip", async () => {
                saveFile((await composition.pack(name)) as Uint8Array<ArrayBuffer>, `${name}.stack.zip`, "application/zip");
              })
            }
          >
            {busy?.kind === "zip" ? "Packing …" : "Stack as one file"}
          </button>
          <button
            className="btn btn-xs btn-outline hair"
            title="The stack alone, as the shell reads it: fumarium compose."
            onClick={() => saveFile(`${JSON.stringify(stack, null, 2)}\n`, `${name}.stack.json`, "application/json")}
          >
            Stack as JSON
          </button>
        </div>
        {busy && busy.kind !== "zip" && (
          <p role="status" className="figures flex items-center gap-2 text-xs">
            {busy.share < 1 ? `Putting it together, ${Math.round(100 * busy.share)} %` : "Writing the file"}
            <button className="link" onClick={() => composition.cancelExport()}>
              Cancel
            </button>
          </p>
        )}
        {problem && (
          <p role="alert" className="border-l-2 border-error py-1 pl-2 text-xs whitespace-pre-wrap">
            {problem}
          </p>
        )}
      </Fold>
    </>
  );
}
