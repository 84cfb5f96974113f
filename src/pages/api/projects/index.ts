import type { APIRoute } from "astro";
import { z } from "zod";
import { parseDocument } from "#core/document/parse";
import { InputError } from "#core/errors";
import { LIMITS } from "#core/document/schema";
import { answer, readJson, respond } from "#server/http";
import { services } from "#server/services";

export const GET: APIRoute = () =>
  respond(async () => {
    const { projects, demos } = await services();
    return answer({
      projects: await projects.list(),
      demos: demos.map(({ id, title, description, picture }) => ({ id, title, description, picture })),
    });
  });

const body = z.union([z.strictObject({ demo: z.string() }), z.strictObject({ document: z.unknown() })]);

/** Creates a project from a demo scene or from a document. */
export const POST: APIRoute = ({ request }) =>
  respond(async () => {
    const { projects, demos } = await services();
    const from = await readJson(request, body, LIMITS.text);
    if ("document" in from) return answer({ id: await projects.create(parseDocument(from.document)) }, 201);
    const demo = demos.find((d) => d.id === from.demo);
    if (!demo) throw new InputError(`There is no demo scene "${from.demo}".`);
    return answer({ id: await projects.create(demo.document, demo.picture) }, 201);
  });
