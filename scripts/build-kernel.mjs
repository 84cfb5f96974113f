// Compiles the kernel twice: over shared memory (several workers, one scene) and over plain memory; and the tree builder,
// which the scene compiler carries within itself.
import { mkdirSync, readFileSync, statSync, readdirSync, existsSync, writeFileSync } from "node:fs";
import { join, dirname } from "node:path";
import { fileURLToPath } from "node:url";
import { isMainThread, Worker, workerData } from "node:worker_threads";
import asc from "assemblyscript/asc";

const root = join(dirname(fileURLToPath(import.meta.url)), "..");
const sources = ["src/core/kernel/assembly", "src/core/kernel/lib", "src/core/optics", "src/core/layout"].flatMap((d) =>
  readdirSync(join(root, d)).map((f) => join(root, d, f)),
);
sources.push(fileURLToPath(import.meta.url));
const newest = Math.max(...sources.map((f) => statSync(f).mtimeMs));
const out = join(root, "build/kernel");
mkdirSync(out, { recursive: true });
// its threads have its folder
if (isMainThread) process.chdir(root);

const common = "-O3 --noAssert --converge --enable simd --runtime stub --maximumMemory 65536 --use abort=".split(" ");
async function compile(args) {
  const { error, stderr } = await asc.main(args);
  if (!error) return;
  console.error(stderr.toString());
  process.exit(1);
}

/** Newest change to any file of some folders. */
const changed = (...folders) =>
  Math.max(
    statSync(fileURLToPath(import.meta.url)).mtimeMs,
    ...folders.flatMap((d) => readdirSync(join(root, d)).map((f) => statSync(join(root, d, f)).mtimeMs)),
  );

/** Compiles the kernel over one kind of memory. */
async function compileKernel(kind) {
  const file = join(out, `kernel.${kind}.wasm`);
  const args = [
    "src/core/kernel/assembly/index.ts",
    "--outFile",
    `build/kernel/kernel.${kind}.wasm`,
    ...common,
    "--importMemory",
    "--initialMemory",
    "131",
    "--lib",
    "src/core/kernel/lib",
    "--use",
    "Math=KernelMath",
  ];
  if (kind === "shared") args.push("--enable", "threads", "--sharedMemory");
  if (kind === "named") args.push("--debug");
  await compile(args);
  console.log(`kernel.${kind}.wasm ${statSync(file).size} bytes`);
}

/** The same in a thread of its own: each takes more than half a minute. */
const inThread = (kind) =>
  new Promise((done) => {
    const thread = new Worker(fileURLToPath(import.meta.url), { workerData: kind });
    thread.on("error", (error) => {
      console.error(error);
      process.exit(1);
    });
    thread.on("exit", (code) => (code === 0 ? done() : process.exit(1)));
  });

/** Modules that what calls them carries within itself. */
async function compileCarried() {
  for (const [name, says, folders] of [
    ["tree", "The tree builder's module (src/core/kernel/tree).", ["src/core/kernel/tree"]],
    ["clean", "The clean-up's module (src/core/kernel/clean).", ["src/core/kernel/clean", "src/core/layout"]],
  ]) {
    const carried = join(out, `${name}.mjs`);
    if (existsSync(carried) && statSync(carried).mtimeMs > changed(...folders)) continue;
    await compile([`src/core/kernel/${name}/index.ts`, "--outFile", `build/kernel/${name}.wasm`, ...common]);
    const bytes = readFileSync(join(out, `${name}.wasm`));
    writeFileSync(join(out, `${name}.d.mts`), `/** ${says} */\nexport declare const bytes: Uint8Array<ArrayBuffer>;\n`);
    writeFileSync(carried, `export const bytes = Uint8Array.from([${[...bytes].join(",")}]);\n`);
    console.log(`${name}.wasm ${bytes.length} bytes`);
  }
}

/** The transcoder of Basis Universal comes as a script for pages: as a module it serves workers, the command and tests alike. */
function writeBasis() {
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
}

if (isMainThread) {
  await compileCarried();
  writeBasis();
  // what is asked for by name is the plain one with the names of its functions, for profiles
  const kinds = process.argv.includes("--named") ? ["named"] : ["shared", "plain"];
  const old = kinds.filter((kind) => {
    const file = join(out, `kernel.${kind}.wasm`);
    return !existsSync(file) || statSync(file).mtimeMs <= newest;
  });
  await Promise.all(old.map(inThread));
} else await compileKernel(workerData);
