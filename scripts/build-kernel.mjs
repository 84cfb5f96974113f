// Compiles the kernel twice: over shared memory (several workers, one scene) and over plain memory; and the tree builder,
// which the scene compiler carries within itself.
import { mkdirSync, readFileSync, statSync, readdirSync, existsSync, writeFileSync } from "node:fs";
import { join, dirname } from "node:path";
import { fileURLToPath } from "node:url";
import asc from "assemblyscript/asc";

const root = join(dirname(fileURLToPath(import.meta.url)), "..");
const sources = ["src/core/kernel/assembly", "src/core/optics", "src/core/layout"].flatMap((d) =>
  readdirSync(join(root, d)).map((f) => join(root, d, f)),
);
sources.push(fileURLToPath(import.meta.url));
const newest = Math.max(...sources.map((f) => statSync(f).mtimeMs));
const out = join(root, "build/kernel");
mkdirSync(out, { recursive: true });
process.chdir(root);

const common = "-O3 --noAssert --converge --enable simd --runtime stub --maximumMemory 65536 --use abort=".split(" ");
async function compile(args) {
  const { error, stderr } = await asc.main(args);
  if (!error) return;
  console.error(stderr.toString());
  process.exit(1);
}

const tree = join(root, "src/core/kernel/tree/index.ts");
const carried = join(out, "tree.mjs");
if (
  !existsSync(carried) ||
  statSync(carried).mtimeMs <= Math.max(statSync(tree).mtimeMs, statSync(fileURLToPath(import.meta.url)).mtimeMs)
) {
  await compile(["src/core/kernel/tree/index.ts", "--outFile", "build/kernel/tree.wasm", ...common]);
  const bytes = readFileSync(join(out, "tree.wasm"));
  writeFileSync(
    join(out, "tree.d.mts"),
    "/** The tree builder's module (src/core/kernel/tree). */\nexport declare const bytes: Uint8Array<ArrayBuffer>;\n",
  );
  writeFileSync(carried, `export const bytes = Uint8Array.from([${[...bytes].join(",")}]);\n`);
  console.log(`tree.wasm ${bytes.length} bytes`);
}

// the transcoder of Basis Universal comes as a script for pages: as a module it serves workers, the command and tests alike
const basis = join(root, "node_modules/three/examples/jsm/libs/basis/basis_transcoder.js");
writeFileSync(
  join(out, "basis.d.mts"),
  `/** Makes the transcoder of Basis Universal that three.js carries. */
declare const create: (options: { wasmBinary: ArrayBuffer | Uint8Array }) => Promise<import("../../src/core/formats/gltf-pictures").BasisModule>;
export default create;
`,
);
// without what Node has it takes nothing from disk
writeFileSync(
  join(out, "basis.mjs"),
  `const process = undefined, module = undefined, exports = undefined, define = undefined;\n${readFileSync(basis, "utf8")}\nexport default BASIS;\n`,
);

for (const kind of ["shared", "plain"]) {
  const file = join(out, `kernel.${kind}.wasm`);
  if (existsSync(file) && statSync(file).mtimeMs > newest) continue;
  const args = [
    "src/core/kernel/assembly/index.ts",
    "--outFile",
    `build/kernel/kernel.${kind}.wasm`,
    ...common,
    "--importMemory",
    "--initialMemory",
    "131",
  ];
  if (kind === "shared") args.push("--enable", "threads", "--sharedMemory");
  await compile(args);
  console.log(`kernel.${kind}.wasm ${statSync(file).size} bytes`);
}
