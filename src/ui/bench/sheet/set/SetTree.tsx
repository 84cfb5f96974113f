/** The set as a tree: objects, and the parts of models within each other. What is chosen opens under its own line. */
import { Eye, EyeOff, Lock, LockOpen } from "lucide-react";
import { useMemo, useState } from "react";
import type { SceneObject } from "#core/document/schema";
import { useBench, useDocument, useSession, useView } from "../../model/context";
import { ObjectFields, PartFields } from "./ObjectFields";
import { changePart, partOf } from "../../model/edits/set";

interface Branch {
  path: string;
  name: string;
  triangles: number;
  children: Branch[];
}

/** Lines of one branch shown at most; the filter finds the rest. */
const MAX_LINES = 200;

function branches(parts: readonly { path: string; count: number }[]): Branch[] {
  const root: Branch = { path: "", name: "", triangles: 0, children: [] };
  const known = new Map<string, Branch>([["", root]]);
  for (const { path, count } of parts) {
    const names = path.split("/");
    let parent = root;
    names.forEach((name, i) => {
      const at = names.slice(0, i + 1).join("/");
      let branch = known.get(at);
      if (!branch) {
        branch = { path: at, name, triangles: 0, children: [] };
        known.set(at, branch);
        parent.children.push(branch);
      }
      branch.triangles += count;
      parent = branch;
    });
  }
  return root.children;
}

const nameOf = (o: SceneObject, i: number): string => o.name ?? `${o.kind} ${i + 1}`;

export function SetTree() {
  const doc = useDocument();
  const [filter, setFilter] = useState("");
  const wanted = filter.trim().toLowerCase();
  const lines = doc.objects.length + Object.values(useSession((s) => s.parts)).reduce((n, p) => n + p.length, 0);
  return (
    <div>
      {lines > 12 && (
        <input
          type="search"
          aria-label="Find in the set"
          placeholder="Find in the set"
          className="input input-xs mb-1 w-full"
          value={filter}
          onChange={(e) => setFilter(e.target.value)}
        />
      )}
      <ul aria-label="Set" className="text-sm">
        {doc.objects.slice(0, MAX_LINES).map((o, i) => (
          <ObjectLine key={i} object={o} index={i} wanted={wanted} />
        ))}
      </ul>
      {doc.objects.length > MAX_LINES && <p className="text-xs quiet">… and {doc.objects.length - MAX_LINES} more objects</p>}
    </div>
  );
}

function Line(p: {
  name: string;
  depth: number;
  hidden: boolean;
  locked: boolean;
  chosen: boolean;
  open: boolean | null;
  note: string;
  onOpen(): void;
  onChoose(): void;
  onHide(): void;
  onLock(): void;
}) {
  return (
    <div
      className={`group flex items-center gap-1 py-px pr-1 ${p.chosen ? "bg-base-300/60" : "hover:bg-base-300/30"}`}
      style={{ paddingLeft: p.depth * 12 }}
    >
      <button
        className={`w-4 shrink-0 text-center text-xs quiet ${p.open === null ? "invisible" : ""}`}
        aria-label={p.open ? `Close ${p.name}` : `Open ${p.name}`}
        aria-expanded={p.open ?? false}
        onClick={p.onOpen}
      >
        {p.open ? "−" : "+"}
      </button>
      <button
        className={`min-w-0 flex-1 truncate text-left ${p.hidden ? "quiet line-through" : ""}`}
        aria-pressed={p.chosen}
        title={p.note ? `${p.name}: ${p.note}` : p.name}
        onClick={p.onChoose}
      >
        {p.name}
      </button>
      <button
        className={`text-xs ${p.locked ? "text-primary" : "quiet opacity-0 group-hover:opacity-100 focus:opacity-100"}`}
        aria-pressed={p.locked}
        aria-label={`Lock ${p.name}`}
        title="Locks it against picking and moving in the views."
        onClick={p.onLock}
      >
        {p.locked ? <Lock aria-hidden className="size-3.5" /> : <LockOpen aria-hidden className="size-3.5" />}
      </button>
      <button
        className={`text-xs ${p.hidden ? "text-primary" : "quiet opacity-0 group-hover:opacity-100 focus:opacity-100"}`}
        aria-pressed={p.hidden}
        aria-label={`Hide ${p.name}`}
        title="Hides it from the render."
        onClick={p.onHide}
      >
        {p.hidden ? <EyeOff aria-hidden className="size-3.5" /> : <Eye aria-hidden className="size-3.5" />}
      </button>
    </div>
  );
}

function ObjectLine({ object, index, wanted }: { object: SceneObject; index: number; wanted: string }) {
  const { store, view } = useBench();
  const chosen = useView((s) => s.chosen);
  const parts = useSession((s) => (object.kind === "model" ? s.parts[object.asset] : undefined));
  const tree = useMemo(() => branches(parts ?? []), [parts]);
  const [open, setOpen] = useState(false);
  const name = nameOf(object, index);
  const own = chosen?.object === index && chosen.part === null;
  const inside = tree.length > 1 || (tree[0]?.children.length ?? 0) > 0;
  const shown = open || (wanted !== "" && inside);
  if (wanted && !inside && !name.toLowerCase().includes(wanted)) return null;
  const set = (change: Partial<SceneObject>): void =>
    store.getState().set((d) => ({ ...d, objects: d.objects.map((o, i) => (i === index ? ({ ...o, ...change } as SceneObject) : o)) }));
  return (
    <li>
      <Line
        name={name}
        depth={0}
        hidden={object.hidden}
        locked={object.locked}
        chosen={own}
        open={inside ? shown : null}
        note={parts ? `${parts.reduce((n, p) => n + p.count, 0).toLocaleString("en")} triangles` : object.kind}
        onOpen={() => setOpen(!open)}
        onChoose={() => view.setState({ chosen: own ? null : { object: index, part: null } })}
        onHide={() => set({ hidden: !object.hidden })}
        onLock={() => set({ locked: !object.locked })}
      />
      {own && <ObjectFields object={object} index={index} />}
      {shown && (
        <ul aria-label={`Parts of ${name}`}>
          {tree.slice(0, MAX_LINES).map((b) => (
            <BranchLine key={b.path} branch={b} depth={1} index={index} object={object} wanted={wanted} />
          ))}
        </ul>
      )}
    </li>
  );
}

const matches = (b: Branch, wanted: string): boolean => b.path.toLowerCase().includes(wanted) || b.children.some((c) => matches(c, wanted));

function BranchLine(p: { branch: Branch; depth: number; index: number; object: SceneObject; wanted: string }) {
  const { branch, index, object } = p;
  const { store, view } = useBench();
  const chosen = useView((s) => s.chosen);
  const [open, setOpen] = useState(false);
  if (object.kind !== "model" || (p.wanted && !matches(branch, p.wanted))) return null;
  const part = partOf(object, branch.path);
  const own = chosen?.object === index && chosen.part === branch.path;
  const shown = open || (p.wanted !== "" && branch.children.length > 0);
  const set = (change: Parameters<typeof changePart>[3]): void => store.getState().set((d) => changePart(d, index, branch.path, change));
  return (
    <li>
      <Line
        name={part.label ?? branch.name}
        depth={p.depth}
        hidden={part.hidden}
        locked={part.locked}
        chosen={own}
        open={branch.children.length ? shown : null}
        note={`${branch.triangles.toLocaleString("en")} triangles`}
        onOpen={() => setOpen(!open)}
        onChoose={() => view.setState({ chosen: own ? null : { object: index, part: branch.path } })}
        onHide={() => set({ hidden: !part.hidden })}
        onLock={() => set({ locked: !part.locked })}
      />
      {own && <PartFields object={object} index={index} path={branch.path} name={branch.name} />}
      {shown && (
        <ul>
          {branch.children.slice(0, MAX_LINES).map((b) => (
            <BranchLine key={b.path} {...p} branch={b} depth={p.depth + 1} />
          ))}
          {branch.children.length > MAX_LINES && (
            <li className="text-xs quiet" style={{ paddingLeft: (p.depth + 1) * 12 + 16 }}>
              … and {branch.children.length - MAX_LINES} more; find them by name
            </li>
          )}
        </ul>
      )}
    </li>
  );
}
