/** Addresses of Redis: read, and shown without what is secret. */
import { InputError } from "#core/errors";

/** An address of Redis. @throws InputError */
export function redisAddress(text: string, what: string): string {
  const url = URL.canParse(text) ? new URL(text) : null;
  if (!url || !/^rediss?:$/.test(url.protocol) || url.hostname === "")
    throw new InputError(`${what} ${text}: must be an address such as redis://127.0.0.1:6379`);
  return text;
}

/** The same without its password, to be shown. */
export function shownAddress(address: string): string {
  const url = new URL(address);
  if (url.password) url.password = "…";
  return decodeURI(url.href);
}
