/** The error that stands for bad input: files, documents, requests, numbers. */

/** Bad input: every problem found, each with its place. */
export class InputError extends Error {
  constructor(
    message: string,
    readonly problems: string[] = [],
  ) {
    super(problems.length ? `${message}\n${problems.map((p) => `  ${p}`).join("\n")}` : message);
    this.name = "InputError";
  }
}

/** What a decoder says of data that it could not read; where it stumbled over them itself, that they are broken. */
export const reasonOf = (error: unknown): string =>
  error instanceof TypeError || error instanceof RangeError || !(error instanceof Error) || !error.message
    ? "its data are broken"
    : error.message;
