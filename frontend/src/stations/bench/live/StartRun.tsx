import { useState } from "react";
import { useRuns } from "@/shared/api/hooks";
import {
  type BenchRow,
  madeOf,
  type ProtocolDoc,
  useBeginSuite,
  usePrepareRun,
  useRunSheet,
  useTemplates,
} from "@/shared/api/live";
import { latestProtocols, versionOf } from "@/shared/job/plan";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Button, Head, Select } from "@/shared/ui/bits";
import { RUN_LOADS, said } from "@/shared/words/words";

/** What is run next on a bench: the plan's next run, or one that was not planned. */
export function StartRun({ bench }: { bench: BenchRow }) {
  const { id, document, edit } = useJob();
  const { layoutId, choose } = useWorkbench();
  const runs = useRuns(id);
  const sheet = useRunSheet(document, id, madeOf(runs.data ?? []));
  const loads = Object.entries(RUN_LOADS).map(([value, words]) => ({ value, words }));
  const templates = useTemplates();
  const prepare = usePrepareRun(id);
  const suite = useBeginSuite();
  const own = latestProtocols(document);
  const next = sheet.data?.next ?? null;
  const [protocolId, setProtocolId] = useState("");
  const [load, setLoad] = useState("both");
  const choices = [
    ...own.map((p) => ({ value: p.id, words: `${p.name || p.id}${versionOf(p) > 1 ? `, version ${p.version}` : ""}` })),
    ...(templates.data ?? []).filter((t) => !own.some((p) => p.id === t.id)).map((t) => ({ value: t.id, words: t.name || t.id })),
  ];
  const wanted = protocolId || document.plan?.protocol || sheet.data?.suggested || "";
  const protocolOf = (name: string): ProtocolDoc | undefined =>
    own.find((p) => p.id === name) ?? templates.data?.find((t) => t.id === name);
  const begin = (layout: string, protocol: ProtocolDoc | undefined, how: string, planned: string) => {
    if (!protocol) return;
    if (!own.some((p) => p.id === protocol.id))
      edit(`take up ${protocol.name || protocol.id}`, (d) => {
        d.protocols = [...(d.protocols ?? []), protocol];
      });
    choose(layout);
    prepare.mutate({ bench: bench.id, layout, protocol, load: how as never, planned });
  };
  return (
    <section className="flex flex-col gap-3 rounded-box border border-base-content bg-paper p-4" aria-label="Next run">
      <Head remark={bench.name}>Next on this bench</Head>
      {next && (
        <div className="flex flex-wrap items-center gap-3 text-body">
          <span>
            By the plan: <strong>layout {next.layout}</strong>, {said(RUN_LOADS, next.load ?? "both")}
          </span>
          <Button strong onClick={() => begin(next.layout, protocolOf(next.protocol), next.load ?? "both", next.id)}>
            Prepare this run
          </Button>
          <Button disabled={suite.isPending || bench.silent} onClick={() => suite.mutate({ bench: bench.id, job: id })}>
            Run the plan by itself
          </Button>
          <span className="w-full text-small text-faint">
            By itself: one run after the other, each begun when the machine has cooled. You tick what is held once for each
            layout, and are called by sound when a hand is needed.{bench.silent && " First let readings come to the bench."}
          </span>
        </div>
      )}
      <div className="flex flex-wrap items-end gap-3">
        <Select label="Protocol" value={wanted} choices={choices} onChange={setProtocolId} />
        <Select label="Load" value={load} choices={loads} onChange={setLoad} />
        <Button strong={!next} disabled={prepare.isPending} onClick={() => begin(layoutId, protocolOf(wanted), load, "")}>
          Prepare a run of {layoutId}
          {next ? ", not planned" : ""}
        </Button>
      </div>
      <p className="text-small text-faint">{protocolOf(wanted)?.purpose}</p>
      {(prepare.error ?? suite.error) && (
        <p role="alert" className="text-small text-error">
          {(prepare.error ?? suite.error)?.message}
        </p>
      )}
    </section>
  );
}
