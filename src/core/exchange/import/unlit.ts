/** Materials that a file wants shown as they are, whatever lights them. */
import type { Document } from "@gltf-transform/core";
import { KHRMaterialsEmissiveStrength, KHRMaterialsSpecular } from "@gltf-transform/extensions";

const UNLIT = "KHR_materials_unlit";

/**
 * Makes unlit materials shine by themselves: their colour as emission, black to all other light. In a picture of the exposure whose
 * white is `white` cd/m² they then look as the file has them, through whatever air lies before them; and they light what is near,
 * as a bright card does.
 * @returns what was done, for the report
 */
export function lightUnlit(document: Document, white: number): string[] {
  const unlit = document
    .getRoot()
    .listMaterials()
    .filter((m) => m.getExtension(UNLIT));
  if (unlit.length === 0) return [];
  const strength = document.createExtension(KHRMaterialsEmissiveStrength);
  const specular = document.createExtension(KHRMaterialsSpecular);
  return unlit.map((m) => {
    const [r, g, b, a] = m.getBaseColorFactor();
    // the picture of the base colour stays for its opacity
    m.setEmissiveFactor([r, g, b]).setBaseColorFactor([0, 0, 0, a]).setMetallicFactor(0).setRoughnessFactor(1);
    m.setMetallicRoughnessTexture(null).setNormalTexture(null).setEmissiveTexture(m.getBaseColorTexture());
    const [from, to] = [m.getBaseColorTextureInfo(), m.getEmissiveTextureInfo()];
    if (from && to) to.copy(from);
    m.setExtension(UNLIT, null);
    m.setExtension("KHR_materials_emissive_strength", strength.createEmissiveStrength().setEmissiveStrength(white));
    m.setExtension("KHR_materials_specular", specular.createSpecular().setSpecularFactor(0));
    return `material "${m.getName()}": is unlit, so it shines by itself, its white with ${Number(white.toPrecision(3))} cd/m²`;
  });
}
