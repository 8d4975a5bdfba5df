/* One large file on its way to the server: how far it is, and stopping it. */
import { useEffect, useRef, useState } from "react";
import type { FileState } from "../api/schema";
import { send } from "./upload";

export interface Coming {
  name: string;
  share: number;
}

export function useUpload() {
  const [coming, setComing] = useState<Coming | null>(null);
  const stop = useRef<AbortController | null>(null);
  useEffect(() => () => stop.current?.abort(), []);
  /** The file once it is there; null where it was stopped. */
  const upload = async (file: File): Promise<FileState | null> => {
    stop.current?.abort();
    const own = new AbortController();
    stop.current = own;
    setComing({ name: file.name, share: 0 });
    try {
      return await send(file, (share) => setComing({ name: file.name, share }), own.signal);
    } catch (error) {
      if (own.signal.aborted) return null;
      throw error;
    } finally {
      if (stop.current === own) setComing(null);
    }
  };
  return { coming, upload, stop: () => stop.current?.abort() };
}
