import { useSheet } from "@/shared/api/hooks";
import { setting } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { missingParts, useWorkbench } from "@/shared/job/workbench";

/** Which size of cooler the processor's heat asks for, and what the case lets in. */
export function CoolerAdvice() {
  const { document } = useJob();
  return missingParts(document).length || !document.layouts?.length ? null : <Told />;
}

function Told() {
  const { document } = useJob();
  const { layoutId, conditions } = useWorkbench();
  const { data } = useSheet({ document, layout: layoutId, conditions });
  const layout = document.layouts?.find((x) => x.id === layoutId);
  const cooler = document.parts?.coolers?.find((c) => layout && c.id === setting(document, layout, "cooler"));
  if (!data) return null;
  const a = data.advice;
  return (
    <p className="rounded-box border hairline bg-paper px-3 py-2 text-small" data-advice={a.possible}>
      <strong>{Math.round(a.heat_w)} W of processor</strong> ask for {a.wanted}
      {cooler ? `; layout ${layoutId} has ${cooler.name || cooler.id}` : ""}. <span className="text-warning">{a.warning}</span>{" "}
      <span className="text-faint">Common practice; the forecast says how warm it gets.</span>
    </p>
  );
}
