import { Trans } from "@lingui/react/macro";
import Button from "@mui/material/Button";
import { Component, Suspense, type ReactNode } from "react";

interface Props {
  /** Holds the place while the part is on its way. */
  fallback?: ReactNode;
  children: ReactNode;
}

/**
 * A part of the console whose code comes when it is needed. When it does not
 * come, or breaks, the part says so; all around it goes on working.
 */
export class Lazily extends Component<Props, { failed: boolean }> {
  override state = { failed: false };

  static getDerivedStateFromError(): { failed: boolean } {
    return { failed: true };
  }

  override render(): ReactNode {
    if (!this.state.failed)
      return <Suspense fallback={this.props.fallback ?? null}>{this.props.children}</Suspense>;
    return (
      <div className="trouble" role="alert">
        <p>
          <Trans>
            This part could not be loaded. Check the connection and reload the page; what you typed is kept.
          </Trans>
        </p>
        <Button variant="outlined" onClick={() => location.reload()}>
          <Trans>Reload</Trans>
        </Button>
      </div>
    );
  }
}
