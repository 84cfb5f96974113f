// Compiles the kernel twice: over shared memory (several workers, one scene) and over plain memory.
import { mkdirSync, statSync, readdirSync, existsSync } from "node:fs";
import { join, dirname } from "node:path";
import { fileURLToPath } from "node:url";
import asc from "assemblyscript/asc";

const root = join(dirname(fileURLToPath(import.meta.url)), "..");
const sources = ["src/core/kernel/assembly", "src/core/optics"].flatMap((d) => readdirSync(join(root, d)).map((f) => join(root, d, f)));
sources.push(join(root, "src/core/scene/layout.ts"), fileURLToPath(import.meta.url));
const newest = Math.max(...sources.map((f) => statSync(f).mtimeMs));
const out = join(root, "build/kernel");
mkdirSync(out, { recursive: true });
process.chdir(root);

for (const kind of ["shared", "plain"]) {
  const file = join(out, `kernel.${kind}.wasm`);
  if (existsSync(file) && statSync(file).mtimeMs > newest) continue;
  const args = [
    "src/core/kernel/assembly/index.ts",
    "--outFile",
    `build/kernel/kernel.${kind}.wasm`,
    "-O3",
    "--noAssert",
    "--converge",
    "--enable",
    "simd",
    "--runtime",
    "stub",
    "--importMemory",
    "--initialMemory",
    "131",
    "--maximumMemory",
    "65536",
    "--use",
    "abort=",
  ];
  if (kind === "shared") args.push("--enable", "threads", "--sharedMemory");
  const { error, stderr } = await asc.main(args);
  if (error) {
    console.error(stderr.toString());
    process.exit(1);
  }
  console.log(`kernel.${kind}.wasm ${statSync(file).size} bytes`);
}
