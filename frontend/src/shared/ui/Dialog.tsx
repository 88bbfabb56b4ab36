import { type ReactNode, useEffect, useRef } from "react";

/** Opens over the page: the focus goes into it, stays there, and returns to what opened it; Esc or a click beside it closes. */
export function Dialog(props: { title: string; wide?: boolean; onClose: () => void; children: ReactNode }) {
  const dialog = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    const opener = document.activeElement;
    dialog.current?.showModal();
    return () => {
      if (opener instanceof HTMLElement || opener instanceof SVGElement) opener.focus();
    };
  }, []);
  return (
    <dialog
      ref={dialog}
      className="modal"
      aria-label={props.title}
      onClose={props.onClose}
      onClick={(e) => e.target === dialog.current && dialog.current?.close()}
      onKeyDown={(e) => e.key === "Escape" && e.stopPropagation()}
    >
      <div className={`modal-box bg-base-100 ${props.wide ? "max-w-3xl" : "max-w-md"}`}>{props.children}</div>
    </dialog>
  );
}
