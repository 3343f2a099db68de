/** A link to hand over: good once, shown once. */
import { useState } from "react";

export function LinkToGive({ secret, called }: { secret: string; called: string }) {
	const [copied, setCopied] = useState(false);
	const address = `${location.origin}/enter#${secret}`;
	return (
		<div>
			<p className="mb-2">
				Give this link to {called}. It is good once, within 3 days, to choose a password; it is not shown
				again.
			</p>
			<output className="mono mb-2 block border border-hair bg-paper p-2 break-all">{address}</output>
			<button
				type="button"
				className="button-plain"
				onClick={() => void navigator.clipboard.writeText(address).then(() => setCopied(true))}
			>
				{copied ? "Copied" : "Copy it"}
			</button>
		</div>
	);
}
