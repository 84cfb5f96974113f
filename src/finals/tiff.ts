/** Pictures as TIFF files, by sharp. */
import type { Shown } from "#core/formats/shown";

/** Characters that XML keeps for itself. */
const ESCAPES: Readonly<Record<string, string>> = { "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;" };
/** What no XML may hold. */
// eslint-disable-next-line no-control-regex
const FORBIDDEN = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g;
const escaped = (text: string): string => text.replace(FORBIDDEN, "\ufffd").replace(/[&<>"]/g, (c) => ESCAPES[c]!);

/** What a file says of its picture, as XMP (ISO 16684-1): program and title by their usual names, the rest by ours. */
export function xmpOf({ Title, Software, ...own }: Record<string, string>): string {
  const named = Object.entries(own).map(([key, text]) => {
    const name = key.replace(/^fumarium\./, "");
    return `<f:${name}>${escaped(text)}</f:${name}>`;
  });
  return `<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>
<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">
<rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:xmp="http://ns.adobe.com/xap/1.0/" xmlns:f="urn:fumarium:render">
<dc:title><rdf:Alt><rdf:li xml:lang="x-default">${escaped(Title ?? "")}</rdf:li></rdf:Alt></dc:title>
<xmp:CreatorTool>${escaped(Software ?? "")}</xmp:CreatorTool>
${named.join("\n")}
</rdf:Description></rdf:RDF></x:xmpmeta>
<?xpacket end="r"?>`;
}

/**
 * A picture as TIFF, packed without loss, with what it says as XMP. @param dpi pixels an inch of a print
 * @throws Error where sharp has no build for this machine
 */
export async function tiffOf(
  { width, height, bands, depth, values }: Shown,
  texts: Record<string, string>,
  dpi: number | null,
): Promise<Uint8Array> {
  const { default: sharp } = await import("sharp");
  const made = sharp(values, { raw: { width, height, channels: bands } });
  const spaced = depth === 16 ? made.toColourspace(bands === 3 ? "rgb16" : "grey16") : bands === 1 ? made.toColourspace("b-w") : made;
  // dots a millimetre
  const resolution = dpi === null ? {} : { xres: dpi / 25.4, yres: dpi / 25.4, resolutionUnit: "inch" as const };
  return spaced
    .withXmp(xmpOf(texts))
    .tiff({ compression: "deflate", predictor: "horizontal", ...resolution })
    .toBuffer();
}
