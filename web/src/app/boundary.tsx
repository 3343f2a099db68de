/** When a screen breaks, the rest of the frame stays, and it says so. */
import { Component, type ReactNode } from "react";

interface State {
	broken: Error | null;
}

export class Boundary extends Component<{ children: ReactNode }, State> {
	override state: State = { broken: null };

	static getDerivedStateFromError(broken: Error): State {
		return { broken };
	}

	override render() {
		if (!this.state.broken) return this.props.children;
		return (
			<main role="alert" className="p-10">
				<h1 className="mb-2 text-lg font-bold">This screen broke.</h1>
				<p className="mb-4 max-w-[60ch] text-soft">
					What was saved is safe. Open it again; if it breaks again, its message helps whoever mends it:{" "}
					<span className="mono">{this.state.broken.message}</span>
				</p>
				<button type="button" className="button-main" onClick={() => this.setState({ broken: null })}>
					Open it again
				</button>
			</main>
		);
	}
}
