import createClient, { type Middleware } from "openapi-fetch";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
export type Bench = Schemas["Bench"];
export type Change = Schemas["ChangeOut"];
export type Excess = Schemas["ExcessOut"];
export type Job = Schemas["JobOut"];
export type Pair = Schemas["PairOut"];
export type Result = Schemas["ResultOut"];
export type Session = Schemas["Session"];
export type Site = Schemas["SiteOut"];
export type WeighIn = Schemas["WeighInOut"];
export type Detail = Schemas["WeighInDetail"];
export type RequestRow = Schemas["RequestOut"];
export type HistoryRow = Schemas["HistoryRow"];
export type Comparison = Schemas["Comparison"];
export type UseMap = Schemas["UseMap"];
export type UseFile = Schemas["UseFile"];
export type Walk = Schemas["WalkOut"];
export type WalkOrders = Schemas["WalkOrdersIn"];
export type Rule = Schemas["RuleOut"];
export type WeighMore = Schemas["WeighMoreIn"];
export type ImageRow = Schemas["ImageRow"];
export type ImageSheet = Schemas["ImageSheet"];
export type ImageSettings = Schemas["ImageSettingsIO"];
export type Choice = Schemas["ChoiceIn"];
export type EmbedWish = Schemas["EmbedIn"];
export type Step = Schemas["EncodeOut"];
export type Effort = Schemas["LightenIn"]["effort"];

export function csrfToken(): string {
  return /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? "";
}

const withToken: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", csrfToken());
    return request;
  },
};

export const client = createClient<paths>({ baseUrl: "/" });
client.use(withToken);

/** What the server says went wrong, in words to be shown. */
export class Refused extends Error {
  readonly status: number;

  constructor(status: number, message: string) {
    super(message);
    this.status = status;
  }
}

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** The data of an answer; throws `Refused` with the server's words otherwise. */
export async function told<T>(answer: Promise<Answer<T>>): Promise<T> {
  const { data, error, response } = await answer;
  if (response.ok) return data as T;
  throw new Refused(response.status, wordsOf(error) || `The server answered ${response.status}.`);
}

function wordsOf(error: unknown): string {
  const detail = (error as { detail?: unknown } | undefined)?.detail;
  return typeof detail === "string" ? detail : "";
}

/** Upload a picture of one's own for an embed; throws `Refused`. */
export async function uploadPicture(site: string, id: string, file: File): Promise<void> {
  const form = new FormData();
  form.append("picture", file);
  form.append("id", id);
  const response = await fetch(`/api/sites/${site}/embeds/picture`, { method: "POST", body: form, headers: { "X-CSRFToken": csrfToken() } });
  if (!response.ok) throw new Refused(response.status, wordsOf(await response.json().catch(() => undefined)) || `${file.name}: the server answered ${response.status}`);
}

/** Upload an archive with progress from 0 to 1, as a newer copy of a site if one is named; throws `Refused`. */
export function uploadArchive(file: File, onProgress: (share: number) => void, newerOf = ""): Promise<Site> {
  return new Promise((resolve, reject) => {
    const form = new FormData();
    form.append("archive", file);
    const request = new XMLHttpRequest();
    request.open("POST", newerOf ? `/api/sites/${newerOf}/newer` : "/api/sites");
    request.setRequestHeader("X-CSRFToken", csrfToken());
    request.upload.onprogress = (event) => onProgress(event.total ? event.loaded / event.total : 0);
    request.onerror = () => reject(new Refused(0, `${file.name}: the connection broke off`));
    request.onload = () => {
      let body: unknown;
      try {
        body = JSON.parse(request.responseText);
      } catch {
        body = undefined;
      }
      if (request.status === 200) resolve(body as Site);
      else reject(new Refused(request.status, wordsOf(body) || `${file.name}: the server answered ${request.status}`));
    };
    request.send(form);
  });
}
