/* Every batch, the newest first. */

import { TopBar } from "../ui/TopBar";
import { BatchList } from "./BatchList";

export function Batches() {
  return (
    <div className="flex h-full flex-col">
      <TopBar trail={[{ text: "Batches" }]} />
      <main className="flex min-h-0 flex-1 flex-col">
        <h1 className="px-5 pt-5 text-xl">Batches</h1>
        <BatchList />
      </main>
    </div>
  );
}
