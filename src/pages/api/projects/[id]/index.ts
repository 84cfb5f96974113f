import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { answerTo, readBody, respond, part } from "#server/http";
import { services } from "#server/services";

export const GET: APIRoute = ({ params }) =>
  respond(async () => {
    const { projects, proofs } = await services();
    return answerTo(API.openProject, { ...(await projects.open(part(params, "id"))), proofs: await proofs.list(part(params, "id")) });
  });

export const PATCH: APIRoute = ({ params, request }) =>
  respond(async () => {
    const { projects } = await services();
    const { title, deleted } = await readBody(API.changeProject, request);
    if (deleted === true) await projects.remove(part(params, "id"));
    if (deleted === false) await projects.restore(part(params, "id"));
    if (title !== undefined) await projects.rename(part(params, "id"), title);
    return answerTo(API.changeProject, { done: true });
  });
