/** The parsers behind three.js's loader of OpenUSD bring no types: what is used of them. */
interface UsdSpec {
  specType: number;
  fields: Record<string, unknown>;
}
interface UsdLayer {
  specsByPath: Record<string, UsdSpec>;
}
declare module "three/examples/jsm/loaders/usd/USDAParser.js" {
  export class USDAParser {
    parseData(text: string): UsdLayer;
  }
}
declare module "three/examples/jsm/loaders/usd/USDCParser.js" {
  export class USDCParser {
    parseData(bytes: ArrayBuffer): UsdLayer;
  }
}
declare module "three/examples/jsm/loaders/usd/USDComposer.js" {
  import type { Group, LoadingManager, Object3D, Texture } from "three";
  export class USDComposer {
    constructor(manager?: LoadingManager);
    compose(layer: UsdLayer, assets: Record<string, UsdLayer | Uint8Array>, variants: Record<string, string>, basePath: string): Group;
    childrenByPath: Map<string, { name: string; path: string }[]>;
    _getAttributes(path: string): Record<string, unknown>;
    _buildHierarchy(parent: Object3D, path: string): void;
    _buildLight(path: string, typeName: string): Object3D;
    _getReferences(spec: UsdSpec): string[];
    _resolveReference(reference: string, variants: Record<string, string>): Object3D | null;
    _createTextureFromData(data: unknown, attributes: Record<string, unknown> | null, transform: unknown): Texture | null;
    _applyTextureTransforms(texture: Texture, transform: unknown): void;
    _getWrapMode(value: unknown): number;
  }
}
