import { fileURLToPath } from "node:url";
import { defineConfig } from "vitest/config";

const at = (path: string) => fileURLToPath(new URL(path, import.meta.url));

export default defineConfig({
  test: {
    root: at("."),
    pool: "forks",
    // renders use all cores by themselves
    maxWorkers: 2,
    testTimeout: 240_000,
    hookTimeout: 240_000,
    // what goes by leases and what is seen on pages is not measured beside renders
    projects: [
      { extends: true, test: { name: "unit", include: ["src/**/*.test.ts", "demo/**/*.test.ts", "tests/unit/**/*.test.ts"] } },
      { extends: true, test: { name: "validation", include: ["tests/validation/**/*.test.ts"] } },
      { extends: true, test: { name: "machines", include: ["tests/machines/**/*.test.ts"], sequence: { groupOrder: 2 } } },
      { extends: true, test: { name: "e2e", include: ["tests/e2e/**/*.test.ts"], fileParallelism: false, sequence: { groupOrder: 1 } } },
    ],
  },
});
