import createClient from "openapi-fetch";
import type { components, paths } from "./schema";
import type {
  Job,
  Person,
  Scan,
  Facts,
  PlanChoices,
  VisitNotes,
  LookMark,
  Pin,
  SectionPlane,
  Pairs,
  EditKind,
} from "./types";

export type * from "./types";

const client = createClient<paths>({ baseUrl: "/" });

/** What the server said, fit to show to a person. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

type Answer<T> = { data?: T; error?: unknown; response: Response };

async function open<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch {
    throw new ApiError("The program does not answer. Nothing was lost; check that it is still running.", 0);
  }
  if (answer.error !== undefined || !answer.response.ok) {
    if (answer.response.status === 401) signedOut();
    const said = (answer.error as { error?: string } | undefined)?.error;
    throw new ApiError(said ?? `The program answered ${answer.response.status}.`, answer.response.status);
  }
  return answer.data as T;
}

/** What an address holds, in bytes; where the server does not say why it refuses them, `otherwise` is said. */
async function bytesOf(address: string, otherwise: string): Promise<ArrayBuffer> {
  const response = await fetch(address);
  if (!response.ok) {
    const said = (await response.json().catch(() => null)) as { error?: string } | null;
    throw new ApiError(said?.error ?? otherwise, response.status);
  }
  return response.arrayBuffer();
}

let signedOut: () => void = () => {};
/** Hears that nobody is signed in any more: the session has ended. */
export const whenSignedOut = (hear: () => void) => (signedOut = hear);

/** What went wrong, as a sentence. */
export const sentenceOf = (error: unknown): string =>
  error instanceof Error ? error.message : String(error);

/** What is asked for, or null where there is none (yet). */
export const orNone = <T>(asked: Promise<T>): Promise<T | null> =>
  asked.catch((error: unknown) => {
    if (error instanceof ApiError && error.status === 404) return null;
    throw error;
  });

/** An edit's address, on top of the revision that was read. */
const over = <P>(revision: number, path: P) => ({ path, header: { "if-match": String(revision) } });

/** Files and words as a form, which the client hands on as it is. */
function formOf(parts: Record<string, File | string>) {
  const form = new FormData();
  for (const [name, part] of Object.entries(parts)) form.append(name, part);
  return { body: form as never, bodySerializer: (body: unknown) => body as FormData };
}

export const api = {
  whoIsHere: () => open(client.GET("/api/session")),
  signIn: (name: string, password: string) => open(client.POST("/api/session", { body: { name, password } })),
  signOut: () => open(client.DELETE("/api/session")),
  signOutEverywhere: () => open(client.DELETE("/api/sessions")),
  changeOwnPassword: (now: string, password: string) =>
    open(client.PUT("/api/session/password", { body: { now, password } })),
  people: () => open(client.GET("/api/people")),
  addPerson: (name: string, role: Person["role"], password: string) =>
    open(client.POST("/api/people", { body: { name, role, password } })),
  changePassword: (person_id: string, password: string) =>
    open(
      client.PUT("/api/people/{person_id}/password", { params: { path: { person_id } }, body: { password } }),
    ),
  removePerson: (person_id: string) =>
    open(client.DELETE("/api/people/{person_id}", { params: { path: { person_id } } })),
  shared: (case_id: string) =>
    open(client.GET("/api/cases/{case_id}/shared", { params: { path: { case_id } } })),
  share: (case_id: string, people: string[]) =>
    open(client.PUT("/api/cases/{case_id}/shared", { params: { path: { case_id } }, body: { people } })),
  standards: () => open(client.GET("/api/standards")),
  vocabulary: () => open(client.GET("/api/vocabulary")),
  cases: (put_away = false) => open(client.GET("/api/cases", { params: { query: { put_away } } })),
  case: (case_id: string) => open(client.GET("/api/cases/{case_id}", { params: { path: { case_id } } })),
  /** A whole case out of a file that was made here or elsewhere. */
  bringCase: (file: File) => open(client.POST("/api/cases/file", formOf({ file }))),
  addCase: (body: components["schemas"]["CaseIn"]) => open(client.POST("/api/cases", { body })),
  /** Out of the list, from where it can be taken back; or, once it lies there, deleted for good. */
  deleteCase: (case_id: string, for_good = false) =>
    open(client.DELETE("/api/cases/{case_id}", { params: { path: { case_id }, query: { for_good } } })),
  takeCaseBack: (case_id: string) =>
    open(client.POST("/api/cases/{case_id}/restore", { params: { path: { case_id } } })),
  putAttemptAway: (attempt_id: string) =>
    open(client.DELETE("/api/attempts/{attempt_id}", { params: { path: { attempt_id } } })),
  takeAttemptBack: (attempt_id: string) =>
    open(client.POST("/api/attempts/{attempt_id}/restore", { params: { path: { attempt_id } } })),
  /** The same places on an earlier scan and on the preparation's; none: forget them. */
  setPairs: (reading_id: string, role: "preop" | "mockup", revision: number, body: Pairs) =>
    open(
      client.PUT("/api/readings/{reading_id}/pairs/{role}", {
        params: over(revision, { reading_id, role }),
        body,
      }),
    ),
  rubrics: () => open(client.GET("/api/rubrics")),
  /** The other side's marks out of a file, set beside those that are there. */
  takeAnswer: (reading_id: string, file: File) =>
    open(
      client.POST("/api/readings/{reading_id}/answer", {
        params: { path: { reading_id } },
        ...formOf({ file }),
      }),
    ),
  /** What a rubric's row can mark. */
  marked: () => open(client.GET("/api/rubric-words")),
  saveRubric: (body: components["schemas"]["RubricIn"]) => open(client.POST("/api/rubrics", { body })),
  exercises: () => open(client.GET("/api/exercises")),
  addExercise: (body: components["schemas"]["ExerciseIn"]) => open(client.POST("/api/exercises", { body })),
  /** A student's scan; the code is told by the file's name. */
  handIn: (exercise_id: string, file: File) =>
    open(
      client.POST("/api/exercises/{exercise_id}/hand-ins", {
        params: { path: { exercise_id } },
        ...formOf({ file }),
      }),
    ),
  schoolClass: (exercise_id: string) =>
    open(client.GET("/api/exercises/{exercise_id}/class", { params: { path: { exercise_id } } })),
  classRelief: (exercise_id: string) =>
    open(client.GET("/api/exercises/{exercise_id}/relief", { params: { path: { exercise_id } } })),
  /** Of the class's relief one value for each vertex of its mesh. */
  classReliefField: async (exercise_id: string, shown: string): Promise<Float32Array> => {
    const response = await fetch(`/api/exercises/${exercise_id}/relief/${shown}`);
    if (!response.ok) throw new ApiError("The relief could not be made; try again.", response.status);
    return new Float32Array(await response.arrayBuffer());
  },
  taught: (reading_id: string) =>
    open(client.GET("/api/readings/{reading_id}/taught", { params: { path: { reading_id } } })),
  addLook: (reading_id: string, marks: LookMark[]) =>
    open(
      client.PUT("/api/readings/{reading_id}/look", { params: { path: { reading_id } }, body: { marks } }),
    ),
  overrule: (reading_id: string, mark: number, why: string) =>
    open(
      client.POST("/api/readings/{reading_id}/overrule", {
        params: { path: { reading_id } },
        body: { mark, why },
      }),
    ),
  job: (job_id: string) => open(client.GET("/api/jobs/{job_id}", { params: { path: { job_id } } })),
  addAttempt: (case_id: string) =>
    open(client.POST("/api/cases/{case_id}/attempts", { params: { path: { case_id } } })),
  addTooth: (case_id: string, body: components["schemas"]["ToothIn"]) =>
    open(client.POST("/api/cases/{case_id}/sites", { params: { path: { case_id } }, body })),
  setStandard: (site_id: string, material: string, standard_id: string) =>
    open(
      client.PUT("/api/sites/{site_id}/standard", {
        params: { path: { site_id } },
        body: { material, standard_id },
      }),
    ),
  reading: (reading_id: string) =>
    open(client.GET("/api/readings/{reading_id}", { params: { path: { reading_id } } })),
  addScan: (case_id: string, attempt_id: string, file: File, role: string) =>
    open<Scan>(
      client.POST("/api/cases/{case_id}/attempts/{attempt_id}/scans", {
        params: { path: { case_id, attempt_id } },
        ...formOf({ file, role }),
      }),
    ),
  changeScan: (scan_id: string, body: components["schemas"]["ScanChange"]) =>
    open(client.PUT("/api/scans/{scan_id}", { params: { path: { scan_id } }, body })),
  deleteScan: (scan_id: string) =>
    open(client.DELETE("/api/scans/{scan_id}", { params: { path: { scan_id } } })),
  guessAxes: (reading_id: string) =>
    open(client.POST("/api/readings/{reading_id}/axes/guess", { params: { path: { reading_id } } })),
  setAxes: (reading_id: string, revision: number, body: components["schemas"]["AxesIn"]) =>
    open(
      client.PUT("/api/readings/{reading_id}/axes", {
        params: over(revision, { reading_id }),
        body,
      }),
    ),
  drawLine: (reading_id: string, revision: number, body: components["schemas"]["StrokeIn"]) =>
    open(
      client.POST("/api/readings/{reading_id}/line/strokes", {
        params: over(revision, { reading_id }),
        body,
      }),
    ),
  forgetLine: (reading_id: string, revision: number) =>
    open(
      client.DELETE("/api/readings/{reading_id}/line", {
        params: over(revision, { reading_id }),
      }),
    ),
  setCurve: (reading_id: string, kind: "gingiva" | "core", revision: number, points: number[][] | null) =>
    open(
      client.PUT("/api/readings/{reading_id}/curves/{kind}", {
        params: over(revision, { reading_id, kind }),
        body: { points },
      }),
    ),
  undo: (reading_id: string, kind: EditKind, revision: number) =>
    open(
      client.POST("/api/readings/{reading_id}/edits/{kind}/undo", {
        params: over(revision, { reading_id, kind }),
      }),
    ),
  makeReady: (reading_id: string) =>
    open(client.POST("/api/readings/{reading_id}/ready", { params: { path: { reading_id } } })),
  /** Draft in degrees at every vertex of a shown mesh, along a path that is only tried. */
  draft: async (reading_id: string, direction: number[], detail: "light" | "rest"): Promise<Float32Array> => {
    const query = direction.map((v) => `direction=${v}`).join("&");
    const response = await fetch(`/api/readings/${reading_id}/draw?${query}&detail=${detail}`);
    if (!response.ok) throw new ApiError("The path could not be tried; try again.", response.status);
    return new Float32Array(await response.arrayBuffer());
  },
  /** Undercuts along a path that is only tried. */
  tryPath: (reading_id: string, direction: number[]) =>
    open(
      client.GET("/api/readings/{reading_id}/undercut", {
        params: { path: { reading_id }, query: { direction } },
      }),
    ),
  /** A child's crown of one size as it was laid over the tooth, a display mesh. */
  laidCrown: (reading_id: string, size: string): Promise<ArrayBuffer> =>
    bytesOf(
      `/api/readings/${reading_id}/crowns/${encodeURIComponent(size)}`,
      "The crown could not be shown; try again.",
    ),
  /** How far every shown vertex lies under another scan, mm. */
  difference: async (reading_id: string, against: "previous" | "before", detail: "light" | "rest") =>
    new Float32Array(
      await bytesOf(
        `/api/readings/${reading_id}/difference?against=${against}&detail=${detail}`,
        "The scans could not be compared; try again.",
      ),
    ),
  setPath: (reading_id: string, revision: number, direction: number[] | null) =>
    open(
      client.PUT("/api/readings/{reading_id}/path", {
        params: over(revision, { reading_id }),
        body: { direction },
      }),
    ),
  getStandard: (standard_id: string, version?: number) =>
    open(
      client.GET("/api/standards/{standard_id}", { params: { path: { standard_id }, query: { version } } }),
    ),
  saveStandard: (expected_version: number, data: Record<string, unknown>) =>
    open(client.POST("/api/standards", { body: { expected_version, data } })),
  sequences: () => open(client.GET("/api/sequences")),
  sequenceWords: () => open(client.GET("/api/sequence-words")),
  saveSequence: (body: components["schemas"]["SequenceIn"]) => open(client.POST("/api/sequences", { body })),
  tray: () => open(client.GET("/api/tray")),
  genericBurs: () => open(client.GET("/api/burs/generic")),
  setTray: (body: components["schemas"]["TrayModel"]) => open(client.PUT("/api/tray", { body })),
  mill: () => open(client.GET("/api/mill")),
  setMill: (body: components["schemas"]["MillModel"]) => open(client.PUT("/api/mill", { body })),
  changeCase: (case_id: string, revision: number, body: components["schemas"]["CaseChange"]) =>
    open(client.PATCH("/api/cases/{case_id}", { params: over(revision, { case_id }), body })),
  setFunctionalSide: (site_id: string, side: "facial" | "lingual" | null) =>
    open(
      client.PUT("/api/sites/{site_id}/functional-side", { params: { path: { site_id } }, body: { side } }),
    ),
  setFacts: (site_id: string, body: Facts) =>
    open(client.PUT("/api/sites/{site_id}/facts", { params: { path: { site_id } }, body })),
  setPlan: (reading_id: string, revision: number, body: PlanChoices) =>
    open(client.PUT("/api/readings/{reading_id}/plan", { params: over(revision, { reading_id }), body })),
  makePlan: (reading_id: string) =>
    open(client.POST("/api/readings/{reading_id}/plan", { params: { path: { reading_id } } })),
  makeBridge: (reading_id: string) =>
    open(client.POST("/api/readings/{reading_id}/bridge", { params: { path: { reading_id } } })),
  career: (query: { restoration: string; material: string; tooth: string; mine: boolean }) =>
    open(client.GET("/api/career", { params: { query } })),
  makeBridgePlan: (reading_id: string) =>
    open(client.POST("/api/readings/{reading_id}/bridge/plan", { params: { path: { reading_id } } })),
  setBridgePath: (reading_id: string, revision: number, direction: [number, number, number] | null) =>
    open(
      client.PUT("/api/readings/{reading_id}/bridge/plan/path", {
        params: over(revision, { reading_id }),
        body: { direction },
      }),
    ),
  bridgePlan: (reading_id: string) =>
    open(client.GET("/api/readings/{reading_id}/bridge/plan", { params: { path: { reading_id } } })),
  bridge: (reading_id: string) =>
    open(client.GET("/api/readings/{reading_id}/bridge", { params: { path: { reading_id } } })),
  makeDecision: (reading_id: string) =>
    open(client.POST("/api/readings/{reading_id}/decision", { params: { path: { reading_id } } })),
  decision: (reading_id: string) =>
    open(client.GET("/api/readings/{reading_id}/decision", { params: { path: { reading_id } } })),
  plan: (reading_id: string) =>
    open(client.GET("/api/readings/{reading_id}/plan", { params: { path: { reading_id } } })),
  veneers: (reading_id: string) =>
    open(client.GET("/api/readings/{reading_id}/veneers", { params: { path: { reading_id } } })),
  timeline: (site_id: string) =>
    open(client.GET("/api/sites/{site_id}/timeline", { params: { path: { site_id } } })),
  whatIf: (reading_id: string, standard_id: string, version?: number) =>
    open(
      client.GET("/api/readings/{reading_id}/what-if", {
        params: { path: { reading_id }, query: { standard_id, version } },
      }),
    ),
  setTicks: (reading_id: string, revision: number, keys: string[]) =>
    open(
      client.PUT("/api/readings/{reading_id}/ticks", {
        params: over(revision, { reading_id }),
        body: { keys },
      }),
    ),
  predict: (reading_id: string, strokes: components["schemas"]["StrokeOfBur"][]) =>
    open(
      client.POST("/api/readings/{reading_id}/predict", {
        params: { path: { reading_id } },
        body: { strokes },
      }),
    ),
  visitSteps: () => open(client.GET("/api/visit-steps")),
  setVisitSteps: (body: components["schemas"]["StepsModel"]) =>
    open(client.PUT("/api/visit-steps", { body })),
  /** The list that ships again. */
  forgetVisitSteps: (revision: number) =>
    open(client.DELETE("/api/visit-steps", { params: { query: { revision } } })),
  visitTimers: () => open(client.GET("/api/visit-timers")),
  setVisitTimers: (body: components["schemas"]["TimersModel"]) =>
    open(client.PUT("/api/visit-timers", { body })),
  /** Those that ship again. */
  forgetVisitTimers: (revision: number) =>
    open(client.DELETE("/api/visit-timers", { params: { query: { revision } } })),
  visit: (case_id: string) =>
    open(client.GET("/api/cases/{case_id}/visit", { params: { path: { case_id } } })),
  startEntry: (case_id: string, kind: "step" | "timer", name: string) =>
    open(
      client.POST("/api/cases/{case_id}/visit/entries", {
        params: { path: { case_id } },
        body: { kind, name },
      }),
    ),
  stopEntry: (case_id: string, entry_id: string) =>
    open(
      client.POST("/api/cases/{case_id}/visit/entries/{entry_id}/stop", {
        params: { path: { case_id, entry_id } },
      }),
    ),
  setVisitNotes: (case_id: string, revision: number, body: VisitNotes) =>
    open(client.PUT("/api/cases/{case_id}/visit/notes", { params: over(revision, { case_id }), body })),
  arrivals: (after: string) => open(client.GET("/api/arrivals", { params: { query: { after } } })),
  measure: (reading_id: string) =>
    open(client.POST("/api/readings/{reading_id}/measure", { params: { path: { reading_id } } })),
  cancel: (job_id: string) =>
    open(client.POST("/api/jobs/{job_id}/cancel", { params: { path: { job_id } } })),
  result: (reading_id: string) =>
    open(client.GET("/api/readings/{reading_id}/result", { params: { path: { reading_id } } })),
  changes: (reading_id: string) =>
    open(client.GET("/api/readings/{reading_id}/changes", { params: { path: { reading_id } } })),
  section: (reading_id: string, plane: SectionPlane, reach_mm: number, last: boolean) =>
    open(
      client.GET("/api/readings/{reading_id}/section", {
        params: { path: { reading_id }, query: { ...plane, reach_mm, last } },
      }),
    ),
  tape: (reading_id: string, one: number[], other: number[]) =>
    open(
      client.GET("/api/readings/{reading_id}/tape", {
        params: { path: { reading_id }, query: { one, other } },
      }),
    ),
  setPins: (reading_id: string, revision: number, pins: Pin[]) =>
    open(
      client.PUT("/api/readings/{reading_id}/pins", {
        params: over(revision, { reading_id }),
        body: { pins },
      }),
    ),
  tryStandard: (data: Record<string, unknown>, against: string) =>
    open(client.POST("/api/standards/try", { body: { data, against } })),
  blob: async (digest: string): Promise<ArrayBuffer> => {
    const response = await fetch(`/api/blobs/${digest}`);
    if (!response.ok)
      throw new ApiError("A part of the picture could not be loaded; reload the page.", response.status);
    return response.arrayBuffer();
  },
};

const ENDED: Job["state"][] = ["done", "failed", "cancelled"];
const ASK_AGAIN_MS = 2000;
const SILENT = "the program does not answer; asking again";

/**
 * Follow a job to its end; `tell` hears every change. A broken connection is said, and taken up again: by the browser,
 * or, where that gives up, by asking now and then. A job that is no longer there has ended.
 */
export function watchJob(job: Job, tell: (job: Job) => void): () => void {
  let last = job;
  let timer: ReturnType<typeof setTimeout> | undefined;
  let left = false;
  const source = new EventSource(`/api/jobs/${job.id}/events`);
  const hear = (now: Job) => {
    if (left) return;
    last = now;
    if (ENDED.includes(now.state)) leave();
    tell(now);
  };
  const leave = () => {
    left = true;
    source.close();
    clearTimeout(timer);
  };
  const ask = async () => {
    try {
      hear(await api.job(job.id));
    } catch (error) {
      const gone = error instanceof ApiError && error.status === 404;
      if (gone)
        hear({ ...last, state: "failed", error: "This measurement is no longer there; measure again." });
      else hear({ ...last, text: SILENT });
    }
    if (!left) timer = setTimeout(() => void ask(), ASK_AGAIN_MS);
  };
  source.onmessage = (event) => hear(JSON.parse(event.data as string) as Job);
  source.onerror = () => {
    if (left) return;
    if (source.readyState === EventSource.CLOSED) void ask();
    else hear({ ...last, text: SILENT });
  };
  return leave;
}
