import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { answerTo, part, readBody, respond } from "#server/http";
import { services } from "#server/services";

export const GET: APIRoute = ({ params }) =>
  respond(async () => answerTo(API.renderFiles, { files: await (await services()).renders.files(part(params, "render")) }));

export const PATCH: APIRoute = ({ params, request }) =>
  respond(async () => {
    const { renders } = await services();
    await renders.change(part(params, "render"), await readBody(API.changeRender, request));
    return answerTo(API.changeRender, { done: true });
  });
