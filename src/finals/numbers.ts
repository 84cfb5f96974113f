/** Numbers of frames, their moments, and the names of their files. */
import { InputError } from "#core/errors";

/** Frames from one to another, both rendered. */
export interface FrameRange {
  from: number;
  to: number;
  step: number;
}

/** Most frames of one order: a feature of two hours at 24 a second has fewer. */
const MOST_FRAMES = 200_000;

/** Reads A, A-B or A-BxSTEP. @throws InputError */
export function frameRange(text: string, option: string): FrameRange {
  const found = /^(\d{1,7})(?:-(\d{1,7})(?:x(\d{1,7}))?)?$/.exec(text.trim());
  if (!found) throw new InputError(`${option} ${text}: must look like 12, 1-48 or 1-48x2`);
  const [from, to, step] = [Number(found[1]), Number(found[2] ?? found[1]), Number(found[3] ?? 1)];
  if (to < from) throw new InputError(`${option} ${text}: ends before it begins`);
  if (step < 1) throw new InputError(`${option} ${text}: its step must be 1 or more`);
  const range = { from, to, step };
  if (frameCount(range) > MOST_FRAMES) throw new InputError(`${option} ${text}: more than ${MOST_FRAMES} frames`);
  return range;
}

export const frameCount = ({ from, to, step }: FrameRange): number => Math.floor((to - from) / step) + 1;
/** Its numbers in order. */
export const framesOf = (range: FrameRange): number[] => Array.from({ length: frameCount(range) }, (_, i) => range.from + i * range.step);

/** Seconds at which a frame stands: frame 0 at the document's own moment. */
export const frameTime = (time: number, frame: number, fps: number): number => time + frame / fps;

/** Digits where a name asks for none. */
const DIGITS = 4;

/** Bytes that a file's name may have, and what of them a frame's number and dots may take. */
const NAME_BYTES = 255,
  NUMBER_ROOM = 12;

/** A name with a layer's before the number of a frame, or else before the ending: fog.####.exr becomes fog.air.####.exr. What is too long of it is left out. */
export function layerFileName(pattern: string, layer: string | null): string {
  if (layer === null) return pattern;
  const slash = Math.max(pattern.lastIndexOf("/"), pattern.lastIndexOf("\\"));
  const [folder, name] = [pattern.slice(0, slash + 1), pattern.slice(slash + 1)];
  // what no file's name may hold
  // eslint-disable-next-line no-control-regex
  let plain = layer.replace(/[\\/:*?"<>|\u0000-\u001f]/g, "_");
  while (plain.length > 1 && Buffer.byteLength(name + plain) > NAME_BYTES - NUMBER_ROOM) plain = [...plain].slice(0, -1).join("");
  const marks = [...name.matchAll(/\.?#+/g)].at(-1);
  const dot = name.lastIndexOf(".");
  const at = marks ? marks.index : dot > 0 ? dot : name.length;
  return `${folder}${name.slice(0, at)}${at > 0 ? "." : ""}${plain}${marks && !marks[0].startsWith(".") ? "." : ""}${name.slice(at)}`;
}

/** The name of a frame's file: its number in the place of the last run of #, padded to their count, or else before the ending. */
export function frameName(pattern: string, frame: number): string {
  const slash = Math.max(pattern.lastIndexOf("/"), pattern.lastIndexOf("\\"));
  const [folder, name] = [pattern.slice(0, slash + 1), pattern.slice(slash + 1)];
  const marks = [...name.matchAll(/#+/g)].at(-1);
  if (marks) return folder + name.slice(0, marks.index) + padded(frame, marks[0].length) + name.slice(marks.index + marks[0].length);
  const dot = name.lastIndexOf(".");
  const [stem, ending] = dot > 0 ? [name.slice(0, dot), name.slice(dot)] : [name, ""];
  return `${folder}${stem}.${padded(frame, DIGITS)}${ending}`;
}

/** The name of the file of a frame (null: of the one picture) that holds a layer of it (null: all). */
export function fileNameOf(pattern: string, frame: number | null, layer: string | null = null): string {
  const named = layerFileName(pattern, layer);
  return frame === null ? named : frameName(named, frame);
}

const padded = (frame: number, digits: number): string => String(frame).padStart(digits, "0");
