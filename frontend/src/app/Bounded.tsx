import { Component, type ReactNode } from 'react';

interface Props {
  /** What is drawn inside, as the beginning of a sentence. */
  what: string;
  /** What is drawn; where that is another, drawing it is tried again. */
  of: string;
  children: ReactNode;
}

/** Keeps an error in drawing to what it is in: a sentence stands there, and all around it goes on. */
export class Bounded extends Component<Props, { failed: boolean; of: string }> {
  override state = { failed: false, of: this.props.of };

  static getDerivedStateFromProps({ of }: Props, state: { of: string }) {
    return of === state.of ? null : { failed: false, of };
  }

  static getDerivedStateFromError() {
    return { failed: true };
  }

  override render() {
    if (!this.state.failed) return this.props.children;
    return (
      <section className="failed" role="alert">
        <h2>{this.props.what} could not be drawn</h2>
        <p>Ulvet made a mistake here; everything saved is safe, and the rest of the sheet works.</p>
        <button className="ruled" onClick={() => this.setState({ failed: false })}>
          Try again
        </button>
      </section>
    );
  }
}
