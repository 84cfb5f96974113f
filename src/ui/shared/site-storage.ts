/** What the browser keeps for this site: settings of a person, never what belongs to a project. */

export type SiteStorage = Pick<Storage, "getItem" | "setItem" | "removeItem">;

const memory = new Map<string, string>();
const forThisPage: SiteStorage = {
  getItem: (key) => memory.get(key) ?? null,
  setItem: (key, value) => void memory.set(key, value),
  removeItem: (key) => void memory.delete(key),
};

/** The browser's storage; where it is blocked, what is set lasts as long as the page. */
export function siteStorage(): SiteStorage {
  try {
    // reading the property is refused already where it is blocked
    localStorage.getItem("");
    return localStorage;
  } catch {
    return forThisPage;
  }
}
