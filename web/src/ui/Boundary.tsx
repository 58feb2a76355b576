import { Alert, Button } from "antd";
import { Component, type ReactNode } from "react";

interface Props {
  children: ReactNode;
  /** Another value is another try: a part that fell over does not stay down when one goes elsewhere. */
  resetBy?: string;
}

/** What is shown where a part of the screen fell over; the rest of it stays. */
export class Boundary extends Component<Props, { error: Error | null }> {
  override state = { error: null as Error | null };

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  override componentDidUpdate(before: Props) {
    if (before.resetBy !== this.props.resetBy && this.state.error) this.setState({ error: null });
  }

  override render() {
    const { error } = this.state;
    if (!error) return this.props.children;
    return (
      <main className="narrow">
        <Alert
          type="error"
          showIcon
          title="This part of the screen failed"
          description={`Your site is unchanged. ${error.message}`}
          action={<Button onClick={() => this.setState({ error: null })}>Try again</Button>}
        />
      </main>
    );
  }
}
