import js from "@eslint/js";
import tseslint from "typescript-eslint";

/** Knowledge flows one way: core ← engine ← (server, ui, cli) ← pages. Each room lists what it may not know. */
const rooms = {
  core: ["engine", "server", "ui", "cli", "pages"],
  engine: ["server", "ui", "cli", "pages"],
  server: ["ui", "cli", "pages"],
  ui: ["server", "cli", "pages"],
  cli: ["server", "ui", "pages"],
};
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

const direction = Object.entries(rooms).map(([room, forbidden]) => ({
  files: [`src/${room}/**/*.{ts,tsx}`],
  ignores: ["**/*.test.ts"],
  rules: {
    "no-restricted-imports": [
      "error",
      {
        patterns: [
          ...forbidden.map((name) => ({ group: outside(name), message: `${room} must not know ${name}.` })),
          ...(room === "core" ? [{ group: runtime, message: "core is computation only: no DOM, Node, React or database." }] : []),
          ...(room === "ui" ? [{ group: ["node:*"], message: "ui runs in browsers." }] : []),
        ],
      },
    ],
  },
}));

export default tseslint.config(
  { ignores: ["node_modules", "dist", "build", "var", ".astro", "src/core/kernel/assembly", "src/core/kernel/tree"] },
  js.configs.recommended,
  ...tseslint.configs.recommended,
  {
    rules: {
      "@typescript-eslint/no-unused-vars": ["error", { argsIgnorePattern: "^_", varsIgnorePattern: "^_" }],
      "@typescript-eslint/no-non-null-assertion": "off",
      "@typescript-eslint/no-unused-expressions": "off",
    },
  },
  ...direction,
  {
    files: ["**/*.mjs"],
    languageOptions: { globals: { process: "readonly", console: "readonly", fetch: "readonly", URL: "readonly", performance: "readonly" } },
  },
);
