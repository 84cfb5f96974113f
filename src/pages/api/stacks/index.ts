import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { answerTo, readStack, respond } from "#server/http";
import { services } from "#server/services";

export const GET: APIRoute = () =>
  respond(async () => {
    const { stacks, readOnly } = await services();
    return answerTo(API.stacks, { stacks: await stacks.list(), readOnly });
  });

export const POST: APIRoute = ({ request }) =>
  respond(async () => {
    const { stacks } = await services();
    const { stack } = await readStack(API.createStack, request);
    return answerTo(API.createStack, { id: await stacks.create(stack) }, 201);
  });
