/* The menu of a run that is open: its name, tags and place; what is asked for stands over the page. */
import { useState } from "react";
import { useNavigate } from "react-router";
import type { RunHead } from "../api/schema";
import { type Asked, KeepAsk } from "./KeepAsk";
import { RunMenu } from "./RunMenu";

export function RunHouse({ run }: { run: RunHead }) {
  const navigate = useNavigate();
  const [asked, setAsked] = useState<Asked | null>(null);
  const runs = [run];
  return (
    <>
      <RunMenu runs={runs} onAsk={setAsked} />
      {asked && (
        <KeepAsk
          asked={asked}
          runs={runs}
          onDone={(done) => {
            setAsked(null);
            if (done && asked === "bin") navigate(`/studies/${run.study_id}`);
          }}
        />
      )}
    </>
  );
}
