import { Dialog, Portal } from "@chakra-ui/react";
import type { ReactNode } from "react";

/** A sheet over the desk. */
export function Sheet(props: {
  title: string;
  open: boolean;
  onClose: () => void;
  width?: string;
  testId?: string;
  children: ReactNode;
}) {
  const { title, open, onClose, width = "560px", testId, children } = props;
  return (
    <Dialog.Root
      open={open}
      onOpenChange={(change) => !change.open && onClose()}
      // The first Escape lets go of what is being typed, the next one of the sheet.
      onEscapeKeyDown={(event) => {
        if (document.activeElement?.hasAttribute("data-typed")) event.preventDefault();
      }}
      placement="center"
    >
      <Portal>
        <Dialog.Backdrop bg="ground" opacity={0.8} />
        <Dialog.Positioner>
          <Dialog.Content bg="card" color="ink" borderRadius="8px" p="5" maxW={width} data-testid={testId}>
            <Dialog.Title fontSize="20px" fontWeight="700" mb="3">
              {title}
            </Dialog.Title>
            {children}
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
