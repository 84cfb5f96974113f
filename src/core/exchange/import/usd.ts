/**
 * OpenUSD (usda, usdc, usdz) to a glTF document, by the parsers and the composer of three.js: layers, references, variants, transforms,
 * meshes and shapes, preview surfaces, cameras. Lights are read here, with what UsdLux says of their size and strength. The composer makes
 * metres with y up.
 */
import { Document } from "@gltf-transform/core";
import { Group, Object3D, Texture } from "three";
import { USDAParser } from "three/examples/jsm/loaders/usd/USDAParser.js";
import { USDCParser } from "three/examples/jsm/loaders/usd/USDCParser.js";
import { USDComposer } from "three/examples/jsm/loaders/usd/USDComposer.js";
import { InputError, reasonOf } from "../../errors";
import type { FileSet } from "./files";
import { sceneToGltf } from "./three-scene";
import { usdLights, type UsdLights } from "./usd-lights";

const PRIM = 6;
const LAYER = /\.usd[ac]?$/i;
const PICTURE = /\.(png|jpe?g|webp)$/i;

/** Kinds of prims that are not read, by what they are called in reports. */
const UNREAD: Readonly<Record<string, string>> = {
  PointInstancer: "point instancers",
  BasisCurves: "curves",
  NurbsCurves: "curves",
  NurbsPatch: "NURBS surfaces",
  Points: "points",
  TetMesh: "meshes of tetrahedra",
  DomeLight: "dome lights: choose their image as the sky",
  PortalLight: "portal lights",
  GeometryLight: "lights of any geometry",
};

/** Whether bytes are a layer in the crate encoding. */
const isCrate = (bytes: Uint8Array): boolean => [0x50, 0x58, 0x52, 0x2d, 0x55, 0x53, 0x44, 0x43].every((b, i) => bytes[i] === b);

/** Reads a set with the layers and pictures it names. @param left takes note of what is left out @throws InputError */
export function readUsd(
  files: FileSet,
  path: string,
  decode: (bytes: Uint8Array) => string,
  left: string[],
): { document: Document; lights: UsdLights } {
  const assets: Record<string, UsdLayer | Uint8Array> = {};
  for (const [name, bytes] of files)
    if (LAYER.test(name)) assets[name] = layerOf(bytes, name, decode, left);
    else if (PICTURE.test(name)) assets[name] = bytes;
  const root = assets[path] as UsdLayer;
  let scene: Group;
  try {
    scene = composed(root, assets, path.slice(0, path.lastIndexOf("/") + 1).replace(/\/$/, ""));
  } catch (error) {
    throw new InputError(`${path}: not readable as OpenUSD (${reasonOf(error)})`);
  }
  scene.updateMatrixWorld(true);
  return { document: sceneToGltf(scene, path, left), lights: usdLights(scene, left) };
}

function layerOf(bytes: Uint8Array, name: string, decode: (bytes: Uint8Array) => string, left: string[]): UsdLayer {
  let layer: UsdLayer;
  try {
    layer = isCrate(bytes)
      ? new USDCParser().parseData(new Uint8Array(bytes).buffer)
      : new USDAParser().parseData(plainText(decode(bytes)));
  } catch (error) {
    throw new InputError(`${name}: not readable as OpenUSD (${reasonOf(error)})`);
  }
  prune(layer, left);
  return layer;
}

/** Text with the ways of listing references and payloads that the parser knows: composed, they mean the same here. */
const plainText = (text: string): string =>
  text
    .replace(/^([ \t(]*)(?:append |add )?references(\s*=)/gm, "$1prepend references$2")
    .replace(/^([ \t(]*)(?:prepend|append|add) payload(\s*=)/gm, "$1payload$2");

const textOf = (v: unknown): string => (typeof v === "string" ? v : "its file");

/** Takes out what is not seen or not read. */
function prune({ specsByPath }: UsdLayer, left: string[]): void {
  const value = (path: string): unknown => specsByPath[path]?.fields.default;
  for (const [path, spec] of Object.entries(specsByPath)) {
    if (spec.specType !== PRIM) continue;
    const type = spec.fields.typeName as string | undefined;
    const unread = type === undefined ? undefined : UNREAD[type];
    const purpose = value(`${path}.purpose`);
    const hidden =
      value(`${path}.visibility`) === "invisible" || purpose === "guide" || purpose === "proxy" || spec.fields.active === false;
    if (unread) left.push(unread);
    if (type === "OpenVDBAsset") left.push(`volume "${path}": choose ${textOf(value(`${path}.filePath`))} as a grid of a medium`);
    // instancers keep what they place below themselves: it must not stand there
    if (hidden || unread) spec.specType = 0;
  }
}

/** A composer whose lights and pictures are read here. What it refers to within a layer is found, and pictures are kept as their bytes. */
function composed(root: UsdLayer, assets: Record<string, UsdLayer | Uint8Array>, base: string): Group {
  // composers of referenced layers are made inside: they are the same only by their prototype
  const own = USDComposer.prototype;
  const { _buildLight, _getReferences, _resolveReference, _createTextureFromData } = own;
  own._buildLight = function (path, typeName) {
    const light = new Object3D();
    light.userData.usdLight = { typeName, attributes: this._getAttributes(path) };
    return light;
  };
  const open = new Set<string>();
  own._getReferences = function (spec) {
    const found = _getReferences.call(this, spec);
    const listed = spec.fields.references ?? spec.fields.payload;
    const given: unknown = Array.isArray(listed) ? listed[0] : listed;
    // files with a prim or without, and prims of this layer
    if (typeof given === "string") return given.match(/@[^@]+@(?:<[^>]+>)?|<[^>]+>/g) ?? found;
    const { assetPath, primPath } = (given ?? {}) as { assetPath?: string; primPath?: string };
    if (!primPath || primPath === "/") return found;
    return [assetPath ? `@${assetPath}@<${primPath}>` : `<${primPath}>`];
  };
  own._resolveReference = function (reference, variants) {
    const within = /^<([^>]+)>$/.exec(reference.trim())?.[1];
    if (within === undefined) return _resolveReference.call(this, reference, variants);
    // what refers to itself, by whatever way, would never end
    if (open.has(within)) return null;
    const parent = within.slice(0, within.lastIndexOf("/")) || "/";
    const children = this.childrenByPath.get(parent) ?? [];
    const holder = new Group();
    open.add(within);
    // of all that stands beside it, it alone
    this.childrenByPath.set(
      parent,
      children.filter(({ path }) => path === within),
    );
    try {
      this._buildHierarchy(holder, parent);
    } finally {
      this.childrenByPath.set(parent, children);
      open.delete(within);
    }
    return holder.children.length ? holder : null;
  };
  own._createTextureFromData = function (data, attributes, transform) {
    const texture = new Texture();
    texture.userData.bytes = data instanceof Uint8Array ? data : null;
    texture.userData.file = typeof data === "string" ? data : null;
    if (attributes) {
      texture.wrapS = this._getWrapMode(attributes["inputs:wrapS"]) as Texture["wrapS"];
      texture.wrapT = this._getWrapMode(attributes["inputs:wrapT"]) as Texture["wrapT"];
    }
    this._applyTextureTransforms(texture, transform);
    return texture;
  };
  try {
    return new USDComposer().compose(root, assets, {}, base);
  } finally {
    Object.assign(own, { _buildLight, _getReferences, _resolveReference, _createTextureFromData });
  }
}
