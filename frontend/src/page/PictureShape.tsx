import { author } from "../api/author";
import { client, got, queryClient, type Head } from "../api/client";
import { keys } from "../api/queries";
import { failed } from "../desk/desk";
import { Pick } from "../ui/fields";

const SHAPES: readonly (readonly [Head["shape"], string])[] = [
  ["as recorded", "as recorded"],
  ["wide", "wide, 16:9"],
  ["square", "square, 1:1"],
  ["upright", "upright, 9:16"],
  ["tall", "tall, 4:5"],
];

/** The shape of an edition's picture; what does not fit into it is cropped, with faces kept in. */
export function PictureShape({ edition, revision, shape, label }: { edition: string; revision: number; shape: Head["shape"]; label: string }) {
  const change = async (wanted: Head["shape"]) => {
    try {
      const params = { path: { edition_id: edition } };
      const after = await got(client.POST("/api/editions/{edition_id}/operations", { params, body: { revision, operation: { kind: "shape", shape: wanted }, ...author() } }));
      queryClient.setQueryData(keys.head(edition), after);
    } catch (error) {
      failed(error);
    }
  };
  return (
    <Pick label={label} value={shape} options={SHAPES} onChange={(wanted) => void change(wanted)} />
  );
}
