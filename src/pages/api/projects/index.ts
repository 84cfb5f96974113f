import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { parseDocument } from "#core/document/parse";
import { LIMITS } from "#core/document/schema";
import { InputError } from "#core/errors";
import { answerTo, readBody, respond } from "#server/http";
import { services } from "#server/services";

export const GET: APIRoute = () =>
  respond(async () => {
    const { projects, demos } = await services();
    return answerTo(API.shelf, {
      projects: await projects.list(),
      demos: demos.map(({ id, title, description, picture }) => ({ id, title, description, picture })),
    });
  });

export const POST: APIRoute = ({ request }) =>
  respond(async () => {
    const { projects, demos } = await services();
    const from = await readBody(API.createProject, request, LIMITS.text);
    if ("document" in from) return answerTo(API.createProject, { id: await projects.create(parseDocument(from.document)) }, 201);
    const demo = demos.find((d) => d.id === from.demo);
    if (!demo) throw new InputError(`There is no demo set "${from.demo}".`);
    return answerTo(API.createProject, { id: await projects.create(demo.document, demo.picture) }, 201);
  });
