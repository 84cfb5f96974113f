/** File name from a title: letters and digits of any language, joined by hyphens. */
export function fileName(title: string): string {
  return (
    title
      .normalize("NFC")
      .replace(/[^\p{L}\p{N}]+/gu, "-")
      .replace(/^-+|-+$/g, "")
      .toLowerCase()
      .slice(0, 80) || "picture"
  );
}
