/** How long ago something was, in words. */
export function ago(t: number): string {
  const minutes = Math.round((Date.now() - t) / 60000);
  if (minutes < 1) return "just now";
  if (minutes < 60) return `${minutes} min ago`;
  const hours = Math.round(minutes / 60);
  if (hours < 24) return `${hours} h ago`;
  return new Date(t).toLocaleDateString("en", { day: "numeric", month: "long", year: "numeric" });
}
