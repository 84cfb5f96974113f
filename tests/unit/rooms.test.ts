import { ESLint } from "eslint";
import { describe, expect, it } from "vitest";

const lint = new ESLint();
async function messages(file: string, code: string): Promise<string[]> {
  const [result] = await lint.lintText(code, { filePath: file });
  return result!.messages.filter((m) => m.ruleId === "no-restricted-imports").map((m) => m.message);
}

describe("knowledge flows one way", () => {
  it.each([
    ["src/core/scene/x.ts", "#engine/engine"],
    ["src/core/scene/x.ts", "../../engine/engine"],
    ["src/core/scene/x.ts", "node:fs"],
    ["src/core/scene/x.ts", "react"],
    ["src/engine/x.ts", "#server/http"],
    ["src/engine/x.ts", "../ui/bench/store"],
    ["src/server/x.ts", "../ui/bench/store"],
    ["src/ui/bench/x.tsx", "#server/http"],
    ["src/cli/x.ts", "#server/http"],
  ])("%s may not import %s", async (file, from) => {
    expect(await messages(file, `import x from "${from}";\nexport default x;\n`)).toHaveLength(1);
  });

  it.each([
    ["src/engine/x.ts", "#core/scene/layout"],
    ["src/ui/bench/x.tsx", "#engine/engine"],
    ["src/server/x.ts", "#core/document/parse"],
    ["src/pages/x.ts", "#server/services"],
  ])("%s may import %s", async (file, from) => {
    expect(await messages(file, `import x from "${from}";\nexport default x;\n`)).toHaveLength(0);
  });
});
