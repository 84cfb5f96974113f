import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { answerTo, part, readBody, readStack, respond } from "#server/http";
import { services } from "#server/services";

export const GET: APIRoute = ({ params }) =>
  respond(async () => answerTo(API.openStack, await (await services()).stacks.open(part(params, "stack"))));

export const PUT: APIRoute = ({ params, request }) =>
  respond(async () => {
    const { stacks } = await services();
    return answerTo(API.saveStack, { revision: await stacks.save(part(params, "stack"), await readStack(API.saveStack, request)) });
  });

export const PATCH: APIRoute = ({ params, request }) =>
  respond(async () => {
    const { stacks } = await services();
    await stacks.change(part(params, "stack"), await readBody(API.changeStack, request));
    return answerTo(API.changeStack, { done: true });
  });
