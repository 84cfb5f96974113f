/** Edits of the set as changes of the document. */
import type { V3 } from "#core/math/vectors";
import { freeName } from "#core/document/place";
import { materialSchema, objectSchema, partSchema, type ObjectPart, type SceneDocument, type SceneObject } from "#core/document/schema";
import type { Material } from "#core/data/material";

const UNCHANGED: ObjectPart = partSchema.parse({});

/** What is changed of a part; the defaults where nothing is. */
export function partOf(object: SceneObject, path: string): ObjectPart {
  return object.kind === "model" && Object.hasOwn(object.parts, path) ? object.parts[path]! : UNCHANGED;
}

/** Changes a part; one that is as the model has it again leaves no trace. */
export function changePart(doc: SceneDocument, index: number, path: string, change: Partial<ObjectPart>): SceneDocument {
  return {
    ...doc,
    objects: doc.objects.map((o, i) => {
      if (i !== index || o.kind !== "model") return o;
      const next = { ...partOf(o, path), ...change };
      const { [path]: _, ...others } = o.parts;
      return { ...o, parts: JSON.stringify(next) === JSON.stringify(UNCHANGED) ? others : { ...others, [path]: next } };
    }),
  };
}

export function changeObject(doc: SceneDocument, index: number, change: Partial<SceneObject>): SceneDocument {
  return { ...doc, objects: doc.objects.map((o, i) => (i === index ? ({ ...o, ...change } as SceneObject) : o)) };
}

/**
 * Takes an object out; media and what else names it go back to what needs no object. Assets and materials that nothing
 * uses stay: undo and other objects may need them.
 */
export function removeObject(doc: SceneDocument, index: number): SceneDocument {
  const gone = doc.objects[index]!.name;
  const objects = doc.objects.filter((_, i) => i !== index);
  const still = gone === undefined || objects.some((o) => o.name === gone);
  return {
    ...doc,
    objects,
    air: still
      ? doc.air
      : doc.air.map((m) => ({
          ...m,
          ...(m.region.kind === "mesh" && m.region.object === gone ? { region: { kind: "everywhere" as const }, edge: 0, on: false } : {}),
          ...(m.proximity?.object === gone ? { proximity: null } : {}),
        })),
  };
}

export function duplicateObject(doc: SceneDocument, index: number): SceneDocument {
  const o = doc.objects[index]!;
  const name = freeName(
    o.name ?? o.kind,
    doc.objects.flatMap((x) => (x.name ? [x.name] : [])),
  );
  return { ...doc, objects: [...doc.objects.slice(0, index + 1), { ...o, name }, ...doc.objects.slice(index + 1)] };
}

/** Adds a shape to block with, before the lens and sized to the scene. */
export function addShape(
  doc: SceneDocument,
  kind: Exclude<SceneObject["kind"], "model" | "plate">,
  at: Readonly<V3>,
  size: number,
): SceneDocument {
  const r = (v: number): number => Number(v.toPrecision(3));
  const s = r(size);
  const materials = Object.hasOwn(doc.materials, "blocking")
    ? doc.materials
    : { ...doc.materials, blocking: materialSchema.parse({ baseColor: [0.4, 0.4, 0.4] }) };
  const shape = objectSchema.parse({
    kind,
    name: freeName(
      kind,
      doc.objects.flatMap((o) => (o.name ? [o.name] : [])),
    ),
    material: "blocking",
    position: [at[0], Number((at[1] + (kind === "box" || kind === "cylinder" || kind === "sphere" ? s / 2 : 0)).toPrecision(9)), at[2]],
    ...(kind === "box"
      ? { size: [s, s, s] }
      : kind === "rectangle"
        ? { size: [s, s] }
        : kind === "cylinder"
          ? { radius: s / 2, height: s }
          : { radius: s / 2 }),
  });
  return { ...doc, materials, objects: [...doc.objects, shape] };
}

/** Gives a new material to what `use` names. @returns the document and the material's name */
export function newMaterial(doc: SceneDocument, wanted: string, material: Partial<Material>): { doc: SceneDocument; name: string } {
  const name = freeName(wanted, Object.keys(doc.materials));
  return { doc: { ...doc, materials: { ...doc.materials, [name]: materialSchema.parse(material) } }, name };
}

/** Renames an object; media that name it follow. */
export function renameObject(doc: SceneDocument, index: number, name: string): SceneDocument {
  const before = doc.objects[index]!.name;
  const free = freeName(
    name,
    doc.objects.flatMap((o, i) => (i !== index && o.name ? [o.name] : [])),
  );
  const shared = before !== undefined && doc.objects.some((o, i) => i !== index && o.name === before);
  return {
    ...changeObject(doc, index, { name: free }),
    air:
      before === undefined || shared
        ? doc.air
        : doc.air.map((m) => ({
            ...m,
            ...(m.region.kind === "mesh" && m.region.object === before ? { region: { ...m.region, object: free } } : {}),
            ...(m.proximity?.object === before ? { proximity: { ...m.proximity, object: free } } : {}),
          })),
  };
}
