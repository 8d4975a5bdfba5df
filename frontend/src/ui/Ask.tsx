/* A dialog that asks for something before it is done. */
import { Dialog } from "radix-ui";
import { type ReactNode, useRef } from "react";

export function Ask({
  title,
  detail,
  open,
  onClose,
  wide = false,
  children,
}: {
  title: string;
  detail?: string;
  open: boolean;
  onClose: () => void;
  wide?: boolean;
  children: ReactNode;
}) {
  const before = useRef<HTMLElement | null>(null);
  const inside = useRef<HTMLElement | null>(null);
  return (
    // The library's own modality restyles the whole page, twice for each question: a plate took 40 ms longer to answer.
    // The veil keeps the pointer off the page, the focus stays within the dialog, aria-modal says the rest.
    <Dialog.Root modal={false} open={open} onOpenChange={(next) => !next && onClose()}>
      <Dialog.Portal>
        <div className="fixed inset-0 z-40 bg-ink/25" />
        <Dialog.Content
          aria-modal
          onFocus={(event) => {
            inside.current = event.target;
          }}
          onFocusOutside={(event) => {
            // A menu that led here gives its focus back late, to the page behind.
            event.preventDefault();
            inside.current?.focus();
          }}
          {...(detail ? {} : { "aria-describedby": undefined })}
          onOpenAutoFocus={() => {
            before.current = document.activeElement as HTMLElement | null;
          }}
          onCloseAutoFocus={(event) => {
            // Where the work was, it goes on: what is asked by a key has no button to go back to.
            if (!before.current?.isConnected) return;
            event.preventDefault();
            before.current.focus();
          }}
          className={`fixed left-1/2 z-50 flex max-h-[86%] overflow-y-auto ${wide ? "top-[8%] w-[720px]" : "top-[18%] w-[460px]"} -translate-x-1/2 flex-col gap-3 rounded-lg border border-rule bg-chalk p-5 shadow-xl`}
        >
          <Dialog.Title className="text-lg">{title}</Dialog.Title>
          {detail && <Dialog.Description className="text-graphite">{detail}</Dialog.Description>}
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
