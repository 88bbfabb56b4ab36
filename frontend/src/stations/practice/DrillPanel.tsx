import { useState } from "react";
import { useDrill, useDrillAnswer } from "@/shared/api/practice";
import { Button, Working } from "@/shared/ui/bits";
import { Said } from "@/shared/units/Said";

const FIRST = 1;

/** A drawn fan: does the air come towards you, or go away? */
export function DrillPanel() {
  const [seed, setSeed] = useState(FIRST);
  const [right, setRight] = useState(0);
  const [asked, setAsked] = useState(0);
  const { data } = useDrill(seed);
  const answer = useDrillAnswer();
  const told = answer.data;
  const say = (towards: boolean) =>
    answer.mutate(
      { seed, towards_you: towards },
      {
        onSuccess: (a) => {
          setAsked(asked + 1);
          if (a.right) setRight(right + 1);
        },
      },
    );
  const next = () => {
    answer.reset();
    setSeed(seed + 1);
  };
  if (!data) return <Working words="A fan is being drawn …" />;
  return (
    <section className="flex flex-wrap items-start gap-6" data-drill={seed}>
      <img
        className="size-56 rounded-box border hairline"
        alt="a fan as it is seen"
        src={`data:image/svg+xml;utf8,${encodeURIComponent(told ? told.svg : data.svg)}`}
      />
      <div className="flex max-w-md flex-col gap-3">
        <h2 className="text-lead">You look at this side. Where does the air go?</h2>
        {!told ? (
          <div className="flex gap-2">
            <Button strong onClick={() => say(true)}>
              towards you
            </Button>
            <Button strong onClick={() => say(false)}>
              away from you
            </Button>
          </div>
        ) : (
          <div className="flex flex-col items-start gap-2" data-right={String(told.right)}>
            <p className="font-semibold">{told.right ? "Right." : "The other way."}</p>
            <p className="text-body">
              <Said text={told.because} />
            </p>
            <Button strong onClick={next}>
              Next fan
            </Button>
          </div>
        )}
        {asked > 0 && (
          <p className="text-small text-faint">
            {right} of {asked} right.
          </p>
        )}
      </div>
    </section>
  );
}
