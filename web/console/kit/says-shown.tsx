import { SnackbarProvider, useSnackbar } from "notistack";
import { useEffect } from "react";

import { takeSaid } from "./say";

/** Draws what is said, at most three at once. */
export default function SaysShown() {
  return (
    <SnackbarProvider maxSnack={3} anchorOrigin={{ vertical: "bottom", horizontal: "left" }}>
      <Taker />
    </SnackbarProvider>
  );
}

function Taker() {
  const { enqueueSnackbar } = useSnackbar();
  useEffect(
    () => takeSaid(({ words, tone }) => enqueueSnackbar(words, { variant: tone })),
    [enqueueSnackbar],
  );
  return null;
}
