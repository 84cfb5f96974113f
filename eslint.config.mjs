import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";
import { BENCH_FLOORS, CORE_FLOORS, MODULES } from "./eslint.modules.mjs";

// patterns are read as in .gitignore, where a leading # would be a comment
const outside = (name) => [`\\#${name}/*`, `**/${name}/**`, `**/src/${name}/**`];
const runtime = [
  "node:*",
  "react",
  "react-dom",
  "react/*",
  "astro",
  "astro:*",
  "drizzle-orm*",
  "@libsql/*",
  "three/webgpu",
  "three/examples/jsm/controls/**",
];
const restricted = (files, patterns) => ({
  files,
  ignores: ["**/*.test.ts"],
  rules: { "no-restricted-imports": ["error", { patterns }] },
});
const others = (table, name) => Object.keys(table).filter((other) => other !== name && !table[name].includes(other));
/** What a whole module of the application may not import. */
const moduleRules = (name) => [
  ...others(MODULES, name).map((other) => ({ group: outside(other), message: `${name} must not know ${other}.` })),
  ...(name === "core" ? [{ group: runtime, message: "core is computation only: no DOM, Node, React or database." }] : []),
  ...(name === "ui" ? [{ group: ["node:*"], message: "ui runs in browsers." }] : []),
];
/** Rules of the folders within a module; the last rule for a file replaces those before it, so they carry the module's too. */
const floorRules = (module, folder, floors) =>
  Object.keys(floors).map((name) =>
    restricted(
      [`${folder}/${name}/**/*.{ts,tsx}`],
      [
        ...moduleRules(module),
        ...others(floors, name).map((other) => ({
          group: [`../${other}/*`, `../../${other}/*`, `../../../${other}/*`, `\\#${folder.replace("src/", "")}/${other}/*`],
          message: `${folder}/${name} lies below ${other} or beside it, and must not know it.`,
        })),
      ],
    ),
  );

const direction = [
  ...Object.keys(MODULES)
    .filter((name) => name !== "pages")
    .map((name) => restricted([`src/${name}/**/*.{ts,tsx}`], moduleRules(name))),
  restricted(
    ["src/ui/shared/**/*.{ts,tsx}"],
    [...moduleRules("ui"), { group: ["../bench/**", "../shelf/**"], message: "shared controls know no view." }],
  ),
  ...floorRules("core", "src/core", CORE_FLOORS),
  ...floorRules("ui", "src/ui/bench", BENCH_FLOORS),
];

export default tseslint.config(
  // the kernel is no TypeScript: it is formatted by its own plugin and held by tests/unit/kernel-sources.test.ts
  {
    ignores: [
      "node_modules",
      "dist",
      "build",
      "var",
      ".astro",
      "src/core/kernel/assembly",
      "src/core/kernel/lib",
      "src/core/kernel/clean",
      "src/core/kernel/tree",
      "src/core/portable-wasm.d.ts",
    ],
  },
  js.configs.recommended,
  {
    files: ["**/*.{ts,tsx}"],
    extends: [...tseslint.configs.recommendedTypeChecked],
    languageOptions: { parserOptions: { projectService: true } },
    rules: {
      "@typescript-eslint/no-unused-vars": ["error", { argsIgnorePattern: "^_", varsIgnorePattern: "^_" }],
      "@typescript-eslint/no-unused-expressions": "off",
      "@typescript-eslint/no-floating-promises": "error",
      "@typescript-eslint/switch-exhaustiveness-check": [
        "error",
        { considerDefaultExhaustiveForUnions: false, requireDefaultForNonUnion: true },
      ],
      // arrays of fixed meaning are read by index; noUncheckedIndexedAccess is answered where the index is known to be in range
      "@typescript-eslint/no-non-null-assertion": "off",
      // props and records say their callbacks as methods
      "@typescript-eslint/unbound-method": "off",
      "@typescript-eslint/restrict-template-expressions": ["error", { allowNumber: true, allowBoolean: true, allowArray: true }],
    },
  },
  {
    files: ["src/ui/**/*.tsx", "src/ui/**/*.ts"],
    plugins: { "react-hooks": hooks },
    rules: { "react-hooks/rules-of-hooks": "error", "react-hooks/exhaustive-deps": "error" },
  },
  {
    // what comes in from outside is checked, never trusted to be there
    files: ["src/api/**/*.ts", "src/cli/**/*.ts", "src/pages/**/*.ts", "src/server/**/*.ts"],
    ignores: ["**/*.test.ts"],
    rules: { "@typescript-eslint/no-non-null-assertion": "error" },
  },
  ...direction,
  {
    files: ["**/*.mjs"],
    languageOptions: { globals: { process: "readonly", console: "readonly", fetch: "readonly", URL: "readonly", performance: "readonly" } },
  },
);
