/** Files that a stack can be of. */
import type { AssetKind } from "#api/contract";

const PICTURES = /\.(exr|hdr|png|jpe?g)$/i;
export const isPictureFile = (name: string): boolean => PICTURES.test(name);
/** For the file picker. */
export const PICTURE_FILES = ".exr,.hdr,.png,.jpg,.jpeg";
/** Kind under which the server keeps it. */
export const kindOfPicture = (name: string): AssetKind => (/\.exr$/i.test(name) ? "film" : "image");
/** A name without its ending. */
export const stemOf = (name: string): string => name.replace(PICTURES, "");
