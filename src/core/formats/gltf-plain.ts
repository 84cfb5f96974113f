/** What extensions of glTF say, said in its plain terms: hidden nodes taken out, specular–glossiness as metal–rough. */
import type { Document, Node } from "@gltf-transform/core";
import { KHRMaterialsSpecular, type PBRSpecularGlossiness, type Specular, type Visibility } from "@gltf-transform/extensions";
import { asTriangles, rootNodes } from "./gltf-shape";
import { pose, type Moment } from "./gltf-pose";

const VISIBILITY = "KHR_node_visibility";
const GLOSSINESS = "KHR_materials_pbrSpecularGlossiness";
/** Reflectance at the normal of a dielectric of index 1.5, which the tint of its reflection is a factor of. */
const PLAIN_REFLECTANCE = 0.04;

/**
 * Makes a document one of triangles that stand still, in place.
 * @param moment of an animation; null for the pose of the file
 * @returns what was done and what is left out, for the report
 */
export function plain(doc: Document, moment: Moment | null, what: string): string[] {
  const said = [...withoutHidden(doc), ...metalRough(doc)];
  asTriangles(doc);
  pose(doc, moment, what);
  return said;
}

/** Takes out nodes that a file hides, with all below them (KHR_node_visibility). */
function withoutHidden(doc: Document): string[] {
  const hidden: Node[] = [];
  const visit = (node: Node): void => {
    if (node.getExtension<Visibility>(VISIBILITY)?.getVisible() === false) hidden.push(node);
    else for (const child of node.listChildren()) visit(child);
  };
  for (const node of rootNodes(doc)) visit(node);
  for (const node of hidden) {
    // joints may lie below: only what would be seen goes
    const empty = (n: Node): void => {
      n.setMesh(null).setCamera(null).setExtension("KHR_lights_punctual", null);
      for (const child of n.listChildren()) empty(child);
    };
    empty(node);
  }
  for (const node of doc.getRoot().listNodes()) node.setExtension(VISIBILITY, null);
  for (const e of doc.getRoot().listExtensionsUsed()) if (e.extensionName === VISIBILITY) e.dispose();
  return hidden.length ? [`${hidden.length} hidden ${hidden.length === 1 ? "node" : "nodes"}`] : [];
}

/**
 * Materials of specular and glossiness as metal–rough of no metal: the diffuse colour, 1 - glossiness, and the specular colour as the tint
 * of a reflection. What both have in their pictures of specular and glossiness is left out.
 */
function metalRough(doc: Document): string[] {
  const said: string[] = [];
  for (const material of doc.getRoot().listMaterials()) {
    const g = material.getExtension<PBRSpecularGlossiness>(GLOSSINESS);
    if (!g) continue;
    material
      .setBaseColorFactor(g.getDiffuseFactor())
      .setMetallicFactor(0)
      .setRoughnessFactor(1 - g.getGlossinessFactor());
    material.setMetallicRoughnessTexture(null).setBaseColorTexture(g.getDiffuseTexture());
    const [from, to] = [g.getDiffuseTextureInfo(), material.getBaseColorTextureInfo()];
    if (from && to) to.copy(from);
    const tint = g.getSpecularFactor().map((c) => c / PLAIN_REFLECTANCE) as [number, number, number];
    const specular =
      material.getExtension<Specular>("KHR_materials_specular") ?? doc.createExtension(KHRMaterialsSpecular).createSpecular();
    material.setExtension("KHR_materials_specular", specular.setSpecularColorFactor(tint));
    if (g.getSpecularGlossinessTexture()) said.push(`material "${material.getName()}": its specular–glossiness texture`);
    material.setExtension(GLOSSINESS, null);
  }
  for (const e of doc.getRoot().listExtensionsUsed()) if (e.extensionName === GLOSSINESS) e.dispose();
  return said;
}
