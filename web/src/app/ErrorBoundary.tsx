import { Button } from "antd";
import { Component, type ErrorInfo, type ReactNode } from "react";
import bits from "../shared/bits.module.css";

/** ErrorBoundary keeps a page's programming error from taking the whole application with it. */
export class ErrorBoundary extends Component<{ children: ReactNode }, { error: Error | null }> {
  override state = { error: null as Error | null };

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  override componentDidCatch(error: Error, info: ErrorInfo) {
    console.error("a page failed", error, info.componentStack);
  }

  override render() {
    const { error } = this.state;
    if (!error) return this.props.children;
    return (
      <div className={bits.empty} role="alert">
        <div>
          <p>
            This page failed by a programming error: {error.message}. Nothing that was saved is lost, and other pages
            work on.
          </p>
          <Button onClick={() => this.setState({ error: null })}>Open it again</Button>
        </div>
      </div>
    );
  }
}
