import { client, open, bytesOf, over, formOf } from "./connection";
import type { components } from "./schema";
import type { Scan, Facts, SectionPlane } from "./types";
import { people } from "./people";
import { teaching } from "./teaching";
import { practice } from "./practice";
import { visits } from "./visits";
import { plans } from "./plans";
import { edits } from "./edits";

export { ApiError, orNone, sentenceOf, whenSignedOut } from "./connection";
export type * from "./types";

/** All that the program can be asked. */
export const api = {
  ...people,
  ...teaching,
  ...practice,
  ...visits,
  ...plans,
  ...edits,
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
  changeCase: (case_id: string, revision: number, body: components["schemas"]["CaseChange"]) =>
    open(client.PATCH("/api/cases/{case_id}", { params: over(revision, { case_id }), body })),
  setFunctionalSide: (site_id: string, side: "facial" | "lingual" | null) =>
    open(
      client.PUT("/api/sites/{site_id}/functional-side", { params: { path: { site_id } }, body: { side } }),
    ),
  setFacts: (site_id: string, body: Facts) =>
    open(client.PUT("/api/sites/{site_id}/facts", { params: { path: { site_id } }, body })),
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
  blob: (digest: string): Promise<ArrayBuffer> =>
    bytesOf(`/api/blobs/${digest}`, "A part of the picture could not be loaded; reload the page."),
};
