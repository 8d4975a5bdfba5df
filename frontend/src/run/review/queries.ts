/* The review of a run, and what moves it on. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api } from "../../api/client";
import { attempted } from "../../api/files";
import { keys } from "../../api/hooks";
import type { NewRemark, OwnMove, Review, ReviewMove, Sign } from "../../api/schema";

const reviewKey = (run: number) => ["review", run] as const;

export function useReview(run: number) {
  return useQuery({
    queryKey: reviewKey(run),
    queryFn: () => answer(api.GET("/api/runs/{id}/review", { params: { path: { id: run } } })),
  });
}

/** Each tells whether it was done; what stood in the way is said. */
export function useReviewing(run: number) {
  const queries = useQueryClient();
  const params = { path: { id: run } };
  const done = (sent: Promise<Review>, said?: string) =>
    attempted(
      sent.then((review) => {
        queries.setQueryData(reviewKey(run), review);
        queries.invalidateQueries({ queryKey: keys.run(run) });
        queries.invalidateQueries({ queryKey: ["ledger", run] });
      }),
      said,
    );
  return {
    own: (body: OwnMove, said: string) =>
      done(answer(api.POST("/api/runs/{id}/review/own", { params, body })), said),
    step: (body: ReviewMove, said: string) =>
      done(answer(api.POST("/api/runs/{id}/review/step", { params, body })), said),
    sign: (body: Sign) =>
      done(answer(api.POST("/api/runs/{id}/review/signature", { params, body })), "Signed."),
    remark: (body: NewRemark) => done(answer(api.POST("/api/runs/{id}/review/remarks", { params, body }))),
    answer: (remark: number, text: string) =>
      done(
        answer(
          api.POST("/api/runs/{id}/review/remarks/{remark}/answers", {
            params: { path: { id: run, remark } },
            body: { text },
          }),
        ),
      ),
    close: (remark: number) =>
      done(
        answer(
          api.POST("/api/runs/{id}/review/remarks/{remark}/close", { params: { path: { id: run, remark } } }),
        ),
      ),
  };
}
