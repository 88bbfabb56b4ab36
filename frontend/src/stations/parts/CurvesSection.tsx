import type { JobDoc } from "@/shared/api/client";
import { CurveRow } from "@/shared/job/CurveRow";
import { freeId } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { Button, Head } from "@/shared/ui/bits";

const START: [number, number][] = [
  [40, 30],
  [60, 50],
  [80, 100],
];

/** Speed curves that fans, cooler and card can follow. */
export function CurvesSection() {
  const { document, edit } = useJob();
  const curves = document.curves ?? [];
  const add = () =>
    edit("new speed curve", (d) => {
      const id = freeId(
        curves.map((c) => c.id),
        "curve",
      );
      d.curves = [...curves, { id, source: "hotter", points: structuredClone(START) }] as JobDoc["curves"];
    });
  return (
    <section className="flex flex-col gap-3" data-kind="curves">
      <Head remark="fans can follow one in Layouts">Speed curves</Head>
      {curves.map((curve, at) => (
        <CurveRow key={curve.id} curve={curve} at={at} />
      ))}
      <div>
        <Button onClick={add}>Add a speed curve</Button>
      </div>
    </section>
  );
}
