/** Answers of a server that are no results. */

/** The machine cannot take part, or not any more. */
export class Refused extends Error {}

/** It cannot be taken now: another time. */
export class Later extends Error {}
