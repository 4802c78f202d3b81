/** What whoever sits here may do with the show that is open; on a Jaskel of one person that is everything. */
import type { SchemaEpisodeOut } from "../api/schema";
import { desk, useDesk } from "./desk";

export type Right = SchemaEpisodeOut["may"][number];

export const may = (right: Right) => desk().rights.includes(right);

export const useMay = (right: Right) => useDesk((state) => state.rights.includes(right));
