/**
 * What a linter holds elsewhere, for the kernels: AssemblyScript is close enough to TypeScript for its parser to read it, but
 * has types of its own, so the linter's rules cannot.
 */
import { readFileSync } from "node:fs";
import { dirname, join } from "node:path";
import ts from "typescript";
import { describe, expect, it } from "vitest";
import { sourceFiles } from "../support/source-files";

const files = [
  ...sourceFiles("src/core/kernel/assembly"),
  ...sourceFiles("src/core/kernel/lib"),
  ...sourceFiles("src/core/kernel/clean"),
  ...sourceFiles("src/core/kernel/tree"),
];
const sources = files.map((file) => ({
  file,
  tree: ts.createSourceFile(file, readFileSync(file, "utf8"), ts.ScriptTarget.Latest, true),
}));

const stemOf = (file: string): string => file.split("/").slice(-2).join("/").replace(".ts", "");

function visit(node: ts.Node, each: (n: ts.Node) => void): void {
  each(node);
  ts.forEachChild(node, (n) => visit(n, each));
}

const isExported = (n: ts.Node): boolean =>
  ts.canHaveModifiers(n) && (ts.getModifiers(n)?.some((m) => m.kind === ts.SyntaxKind.ExportKeyword) ?? false);

/** Where each name stands other than in an import or in its own declaration. */
function uses(tree: ts.SourceFile): Set<string> {
  const out = new Set<string>();
  visit(tree, (n) => {
    if (!ts.isIdentifier(n)) return;
    const p = n.parent;
    if (ts.isImportSpecifier(p) || ((ts.isVariableDeclaration(p) || ts.isFunctionDeclaration(p) || ts.isParameter(p)) && p.name === n))
      return;
    if (ts.isPropertyAccessExpression(p) && p.name === n) return;
    out.add(n.text);
  });
  return out;
}

/** Names a file imports, with the folder and file they come from. */
function imports(tree: ts.SourceFile): { name: string; from: string }[] {
  const out: { name: string; from: string }[] = [];
  for (const s of tree.statements) {
    if (!ts.isImportDeclaration(s) && !ts.isExportDeclaration(s)) continue;
    const path = s.moduleSpecifier && ts.isStringLiteral(s.moduleSpecifier) ? s.moduleSpecifier.text : "";
    const from = stemOf(join(dirname(tree.fileName), path));
    const named = ts.isImportDeclaration(s) ? s.importClause?.namedBindings : s.exportClause;
    if (named && (ts.isNamedImports(named) || ts.isNamedExports(named)))
      for (const e of named.elements) out.push({ name: (e.propertyName ?? e.name).text, from });
  }
  return out;
}

/** Functions and variables at the top of a file. */
function declarations(tree: ts.SourceFile): { name: string; exported: boolean }[] {
  return tree.statements.flatMap((s) =>
    ts.isFunctionDeclaration(s)
      ? [{ name: s.name!.text, exported: isExported(s) }]
      : ts.isVariableStatement(s)
        ? s.declarationList.declarations.map((d) => ({ name: (d.name as ts.Identifier).text, exported: isExported(s) }))
        : [],
  );
}

describe("the kernels' sources", () => {
  it("are read whole", () => {
    expect(sources.length).toBeGreaterThan(30);
    expect(sources.flatMap(({ tree }) => declarations(tree)).length).toBeGreaterThan(300);
    expect(sources.flatMap(({ tree }) => imports(tree)).length).toBeGreaterThan(300);
  });

  it("import and declare nothing that they do not use", () => {
    const wrong: string[] = [];
    const imported = new Set(sources.flatMap(({ tree }) => imports(tree).map(({ name, from }) => `${from}/${name}`)));
    for (const { file, tree } of sources) {
      const used = uses(tree);
      const stem = stemOf(file);
      for (const s of tree.statements)
        if (ts.isImportDeclaration(s) && s.importClause?.namedBindings && ts.isNamedImports(s.importClause.namedBindings))
          for (const e of s.importClause.namedBindings.elements)
            if (!used.has(e.name.text)) wrong.push(`${file}: import of ${e.name.text}`);
      for (const { name, exported } of declarations(tree)) {
        // what an entry exports is for its host: kernel.ts declares it, and a test there holds the two together
        if (exported && (stem.endsWith("/index") || imported.has(`${stem}/${name}`))) continue;
        if (exported) wrong.push(`${file}: export of ${name}`);
        else if (!used.has(name)) wrong.push(`${file}: ${name}`);
      }
      visit(tree, (n) => {
        if (!ts.isFunctionDeclaration(n) || !n.body) return;
        const inside = new Set<string>();
        visit(n.body, (m) => {
          if (ts.isIdentifier(m) && !(ts.isVariableDeclaration(m.parent) && m.parent.name === m)) inside.add(m.text);
        });
        visit(n.body, (m) => {
          if (ts.isVariableDeclaration(m) && ts.isIdentifier(m.name) && !inside.has(m.name.text))
            wrong.push(`${file}: ${m.name.text} in ${n.name!.text}`);
        });
        for (const p of n.parameters)
          if (ts.isIdentifier(p.name) && !inside.has(p.name.text)) wrong.push(`${file}: parameter ${p.name.text} of ${n.name!.text}`);
      });
    }
    expect(wrong).toEqual([]);
  });

  it("call no function from within itself: a worker's stack is small, and how deep a set lies is its author's choice", () => {
    const calls = new Map<string, Set<string>>();
    for (const { file, tree } of sources) {
      const from = new Map(imports(tree).map(({ name, from }) => [name, `${from}/${name}`]));
      const here = (name: string): string => from.get(name) ?? `${stemOf(file)}/${name}`;
      for (const s of tree.statements) {
        if (!ts.isFunctionDeclaration(s) || !s.body) continue;
        const to = new Set<string>();
        visit(s.body, (n) => {
          if (ts.isCallExpression(n) && ts.isIdentifier(n.expression)) to.add(here(n.expression.text));
        });
        calls.set(here(s.name!.text), to);
      }
    }
    const reaches = (from: string): boolean => {
      const seen = new Set<string>();
      const open = [...calls.get(from)!];
      for (let name = open.pop(); name !== undefined; name = open.pop()) {
        if (name === from) return true;
        if (seen.has(name)) continue;
        seen.add(name);
        open.push(...(calls.get(name) ?? []));
      }
      return false;
    };
    expect(calls.size).toBeGreaterThan(250);
    expect([...calls.keys()].filter(reaches)).toEqual([]);
  });

  it("compare kinds with their names, never with bare numbers", () => {
    const wrong: string[] = [];
    for (const { file, tree } of sources)
      visit(tree, (n) => {
        if (!ts.isBinaryExpression(n) || !ts.isNumericLiteral(n.right)) return;
        if (![ts.SyntaxKind.EqualsEqualsToken, ts.SyntaxKind.ExclamationEqualsToken].includes(n.operatorToken.kind)) return;
        const left = n.left.getText(tree);
        if (/kind$|_KIND\)|_CHARACTER\)|_HEIGHT_KIND|_LEVEL\)/i.test(left)) wrong.push(`${file}: ${n.getText(tree)}`);
      });
    expect(wrong).toEqual([]);
  });

  it("say of each file and each exported function what it is", () => {
    const wrong: string[] = [];
    for (const { file, tree } of sources) {
      if (!tree.getFullText().startsWith("/**")) wrong.push(file);
      for (const s of tree.statements)
        if (ts.isFunctionDeclaration(s) && isExported(s) && ts.getJSDocCommentsAndTags(s).length === 0)
          wrong.push(`${file}: ${s.name!.text}`);
    }
    expect(wrong).toEqual([]);
  });
});
