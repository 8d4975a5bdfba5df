/* The lab's rule on reviewing what one has handed in. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { attempted } from "../api/files";

export function OwnReview() {
  const queries = useQueryClient();
  const settings = useQuery({
    queryKey: ["lab settings"],
    queryFn: () => answer(api.GET("/api/lab-settings")),
  });
  if (!settings.data) return null;
  const set = async (own_review: boolean) => {
    await attempted(answer(api.PUT("/api/lab-settings", { body: { own_review } })));
    queries.invalidateQueries({ queryKey: ["lab settings"] });
  };
  return (
    <>
      <h2 className="mt-6 text-lg">Review</h2>
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          checked={settings.data.own_review}
          onChange={(event) => set(event.target.checked)}
        />
        Who hands a run in may also review and sign it
      </label>
    </>
  );
}
