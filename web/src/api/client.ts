import createClient, { type Middleware } from "openapi-fetch";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
export type Session = Schemas["Session"];
export type Words = Schemas["Words"];
export type Site = Schemas["SiteOut"];
export type SiteDetail = Schemas["SiteDetail"];
export type Job = Schemas["JobOut"];
export type Proof = Schemas["ProofOut"];
export type Plan = Schemas["PlanOut"];
export type Edited = Schemas["PlanEdited"];
export type Change = Schemas["ChangeOut"];
export type Command = Schemas["EditIn"]["commands"][number];
export type ImagesCommand = Schemas["ImagesIn"];
export type EmbedCommand = Schemas["EmbedIn"];
export type RemedyName = Schemas["RemedyName"];
export type Standing = Schemas["Standing"];
export type Effort = Schemas["EffortName"];
export type Kind = Schemas["KindName"];
export type Finding = Schemas["ExcessOut"];
export type Facts = Finding["facts"];
export type Run = Schemas["RunOut"];
export type RunRow = Schemas["RunRow"];
export type Outcome = Schemas["OutcomeOut"];
export type Pair = Schemas["PairOut"];
export type Difference = Schemas["DifferenceOut"];
export type LedgerLine = Schemas["LedgerLine"];
export type Keep = Schemas["KeepOut"];
export type WeighIn = Schemas["WeighInOut"];
export type WeighIns = Schemas["WeighInsOut"];
export type Detail = Schemas["WeighInDetail"];
export type Part = Schemas["PartOut"];
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
export type BesideOf = Schemas["BesideOut"];
export type Apart = Schemas["ApartOut"];
export type Worth = Schemas["WorthOut"];
export type Preset = Schemas["PresetOut"];
export type Step = Schemas["EncodeOut"];
export type ReviewSeen = Schemas["ReviewOut"];
export type ReviewRow = Schemas["ReviewRow"];
export type Topic = Schemas["TopicOut"];
export type Shot = Schemas["ShotOut"];
export type Answer = Schemas["AnswerOut"];
export type AnswerBody = Schemas["AnswerIn"];
export type Letterhead = Schemas["LetterheadIO"];
export type WatchOrder = Schemas["WatchIn"];
export type HandStep = Schemas["HandStepOut"];
export type Limit = Schemas["LimitIO"];
export type Allowance = Schemas["AllowanceOut"];

/** All that the screens of a site show, put together from its resources. */
export interface Bench extends SiteDetail {
  weigh_ins: WeighIn[];
  now: WeighIn[];
  pictures: WeighIns["pictures"];
  excess: Finding[];
  surveyed: string;
  plan: Plan | null;
  run: Run | null;
  worth: Worth[];
  job: Job | null;
  words: Words;
}

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

interface Told<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** The data of an answer; throws `Refused` with the server's words otherwise. */
export async function told<T>(answer: Promise<Told<T>>): Promise<T> {
  const { data, error, response } = await answer;
  if (response.ok) return data as T;
  throw new Refused(response.status, wordsOf(error) || `The server answered ${response.status}.`);
}

function wordsOf(error: unknown): string {
  const detail = (error as { detail?: unknown } | undefined)?.detail;
  return typeof detail === "string" ? detail : "";
}

/** Send a file with fields beside it; throws `Refused`. */
export async function sendFile<T>(
  address: string,
  name: string,
  file: File,
  fields: Record<string, string>,
): Promise<T> {
  const form = new FormData();
  form.append(name, file);
  for (const [key, value] of Object.entries(fields)) form.append(key, value);
  const response = await fetch(address, { method: "POST", body: form, headers: { "X-CSRFToken": csrfToken() } });
  const body: unknown = await response.json().catch(() => undefined);
  if (response.ok) return body as T;
  throw new Refused(response.status, wordsOf(body) || `${file.name}: the server answered ${response.status}`);
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
