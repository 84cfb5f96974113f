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
