import { client, open, formOf, bytesOf } from "./connection";
import type { components } from "./schema";
import type { LookMark } from "./types";

/** Exercises, rubrics, classes, marks. */
export const teaching = {
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
  classReliefField: async (exercise_id: string, shown: string) =>
    new Float32Array(
      await bytesOf(
        `/api/exercises/${exercise_id}/relief/${shown}`,
        "The relief could not be made; try again.",
      ),
    ),
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
};
