import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { answerTo, answerWith, readBody, respond, part } from "#server/http";
import { services } from "#server/services";

export const GET: APIRoute = ({ params }) =>
  respond(async () => {
    const { projects, proofs, wedges } = await services();
    const { document, ...project } = await projects.open(part(params, "id"));
    return answerWith(document, {
      ...project,
      proofs: await proofs.list(part(params, "id")),
      wedges: await wedges.list(part(params, "id")),
    });
  });

export const PATCH: APIRoute = ({ params, request }) =>
  respond(async () => {
    const { projects } = await services();
    const { title, deleted } = await readBody(API.changeProject, request);
    const id = part(params, "id");
    // a project that comes back can be renamed, one that goes is renamed before
    if (deleted === false) await projects.restore(id);
    if (title !== undefined) await projects.rename(id, title);
    if (deleted === true) await projects.remove(id);
    return answerTo(API.changeProject, { done: true });
  });
