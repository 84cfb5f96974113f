/**
 * Which module may know which. Imports run one way: a module may import those listed beside it, and itself.
 * The linter reads these tables (eslint.config.mjs), and a test holds every import of the project against them.
 */

/** The modules of the application: core ← engine ← finals ← machines, core ← api ← (server, ui, cli), machines ← (server, cli), all ← pages. */
export const MODULES = {
  core: [],
  engine: ["core"],
  finals: ["core", "engine"],
  machines: ["core", "engine", "finals"],
  api: ["core"],
  server: ["core", "engine", "finals", "machines", "api"],
  ui: ["core", "engine", "api"],
  cli: ["core", "engine", "finals", "machines", "api"],
  pages: ["core", "engine", "finals", "machines", "api", "server", "ui"],
};

const low = ["math", "optics", "layout", "data"];
const middle = [...low, "document", "film", "formats", "kernel", "plate", "scene"];

/** Folders of src/core, from the lowest floor up. */
export const CORE_FLOORS = {
  math: [],
  layout: [],
  optics: ["math", "layout"],
  data: ["math", "optics"],
  kernel: ["optics", "layout"],
  document: low,
  film: [...low, "document"],
  formats: [...low, "document", "film"],
  clean: [...low, "document", "film", "kernel"],
  plate: [...low, "document", "formats"],
  scene: [...low, "document", "film", "formats", "kernel", "plate"],
  budget: middle,
  section: middle,
  veil: middle,
  exchange: middle,
  air: [...middle, "section"],
  compose: [...middle, "exchange"],
};

/** Folders of src/ui/bench. What lies in none of them puts the bench together and may import all. */
export const BENCH_FLOORS = {
  model: [],
  drawings: ["model"],
  viewport: ["model", "drawings"],
  sheet: ["model", "drawings"],
};
