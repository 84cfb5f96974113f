import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { InputError } from "#core/errors";
import { checked } from "#server/bodies";
import { answerTo, readDocument, respond } from "#server/http";
import { services } from "#server/services";

export const GET: APIRoute = () =>
  respond(async () => {
    const { projects, demos, readOnly } = await services();
    return answerTo(API.shelf, {
      readOnly,
      projects: await projects.list(),
      demos: demos.map(({ id, title, description, picture }) => ({ id, title, description, picture })),
    });
  });

export const POST: APIRoute = ({ request }) =>
  respond(async () => {
    const { projects, demos } = await services();
    const from = await readDocument("create", request);
    if ("document" in from) return answerTo(API.createProject, { id: await projects.create(from.document) }, 201);
    const demo = demos.find((d) => d.id === from.demo);
    if (!demo) throw new InputError(`There is no demo set "${from.demo}".`);
    return answerTo(API.createProject, { id: await projects.create(checked(demo.document), demo.picture) }, 201);
  });
