/** Text of files, which core turns into bytes and back by itself. */

/** UTF-8 bytes without DOM or Node interfaces; half a surrogate pair becomes U+FFFD. */
export function utf8(s: string): Uint8Array {
  const escaped = encodeURIComponent(s.replace(/[\uD800-\uDBFF](?![\uDC00-\uDFFF])|(?<![\uD800-\uDBFF])[\uDC00-\uDFFF]/g, "\uFFFD"));
  const out: number[] = [];
  for (let i = 0; i < escaped.length; i++) {
    if (escaped[i] === "%") {
      out.push(parseInt(escaped.slice(i + 1, i + 3), 16));
      i += 2;
    } else out.push(escaped.charCodeAt(i));
  }
  return new Uint8Array(out);
}

/** Text of UTF-8 bytes; where they are none, each byte stays a character of its own. */
export function fromUtf8(b: Uint8Array): string {
  let escaped = "";
  for (const v of b) escaped += `%${v.toString(16).padStart(2, "0")}`;
  try {
    return decodeURIComponent(escaped);
  } catch {
    let text = "";
    for (const v of b) text += String.fromCharCode(v);
    return text;
  }
}
