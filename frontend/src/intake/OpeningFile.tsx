/* While a run is made of a large file: how much of it is read. */
import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../api/client";
import { Progress } from "../upload/Progress";

const AGAIN_MS = 500;

export function OpeningFile({ file, name }: { file: number; name: string }) {
  const path = { params: { path: { id: file } } };
  const far = useQuery({
    queryKey: ["file", file],
    queryFn: () => answer(api.GET("/api/files/{id}", path)),
    refetchInterval: AGAIN_MS,
    gcTime: 0,
  });
  const share = far.data ? far.data.done / far.data.pieces : 0;
  return (
    <Progress
      text={share < 1 ? `Reading ${name} …` : `Keeping the numbers of ${name} …`}
      share={share}
      onStop={() => api.POST("/api/files/{id}/stop", path)}
    />
  );
}
