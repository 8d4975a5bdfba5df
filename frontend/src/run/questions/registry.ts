/* The rooms there are, each loaded when a run asks its question. */
import type { QuestionId } from "../../api/declared";
import type { Room } from "./room";

const ROOMS: Record<QuestionId, () => Promise<{ room: Room }>> = {
  concentration: () => import("./concentration"),
  additions: () => import("./additions"),
  dose: () => import("./dose"),
  mortality: () => import("./mortality"),
  potency: () => import("./potency"),
  relation: () => import("./relation"),
  rate: () => import("./rate"),
  spectrum: () => import("./spectrum"),
  recording: () => import("./recording"),
};

const loaded = new Map<string, Promise<Room>>();

/** The room of a question, the same promise every time, so that it is waited for once. */
export function roomOf(question: QuestionId): Promise<Room> {
  const had = loaded.get(question);
  if (had) return had;
  const room = ROOMS[question]().then((module) => module.room);
  loaded.set(question, room);
  room.catch(() => loaded.delete(question)); // asked for again when it is needed again
  return room;
}
