/** The calls that this page made, each as one would make it oneself: as curl, and in Python. The token stays out. */
import { useState } from "react";
import { Link } from "react-router";
import { type Call, calls } from "../api/client";

export function Calls() {
	const [way, setWay] = useState<"curl" | "python">("curl");
	const [open, setOpen] = useState("");
	const made = calls.filter((call) => !call.url.endsWith("/version")).slice(0, 40);
	return (
		<div className="px-3 py-2">
			<p className="mb-2 flex items-baseline gap-4 text-[12.5px] text-soft">
				The newest first. A token of your own stands in <span className="mono">BARRIO_TOKEN</span>.
				<Link className="button-plain ml-auto" to="/reference">
					All calls there are
				</Link>
			</p>
			<ol className="space-y-1">
				{made.map((call) => {
					const key = call.at.toISOString() + call.url;
					return (
						<li key={key} className="mono">
							<button
								type="button"
								aria-expanded={open === key}
								className="w-full text-left break-all hover:text-indigo"
								onClick={() => setOpen(open === key ? "" : key)}
							>
								<span className="text-soft">{call.status}</span> <b>{call.method}</b>{" "}
								{new URL(call.url).pathname}
								{decodeURIComponent(new URL(call.url).search)}
							</button>
							{open === key && (
								<div className="my-1 border-l-2 border-hair pl-2">
									<div className="mb-1 flex gap-4 font-sans text-[12.5px]">
										{(["curl", "python"] as const).map((one) => (
											<button
												key={one}
												type="button"
												aria-pressed={way === one}
												className={way === one ? "font-bold" : "text-soft hover:text-indigo"}
												onClick={() => setWay(one)}
											>
												{one === "curl" ? "curl" : "Python"}
											</button>
										))}
										<button
											type="button"
											className="button-plain ml-auto"
											onClick={() => void navigator.clipboard?.writeText(said(call, way))}
										>
											Copy
										</button>
									</div>
									<pre className="overflow-x-auto whitespace-pre-wrap break-all">{said(call, way)}</pre>
								</div>
							)}
						</li>
					);
				})}
			</ol>
		</div>
	);
}

/** A call as one would make it in a shell, or in Python with httpx. */
export function said(
	{ method, url, body }: Pick<Call, "method" | "url" | "body">,
	way: "curl" | "python",
): string {
	const json = /^[[{]/.test(body);
	if (way === "curl") {
		const words = [`curl ${method === "GET" ? "" : `-X ${method} `}${quoted(url)}`];
		words.push(`-H "Authorization: Bearer $BARRIO_TOKEN"`);
		if (json) words.push(`-H 'Content-Type: application/json'`);
		if (body) words.push(`--data ${quoted(body)}`);
		return words.join(" \\\n  ");
	}
	const lines = [
		"import os",
		"import httpx",
		"",
		`answer = httpx.request(`,
		`    "${method}", ${JSON.stringify(url)},`,
		`    headers={"Authorization": f"Bearer {os.environ['BARRIO_TOKEN']}"},`,
	];
	if (json) lines.push(`    json=${python(JSON.parse(body))},`);
	else if (body) lines.push(`    content=${JSON.stringify(body)},`);
	return [...lines, ")", "answer.raise_for_status()", "print(answer.json())"].join("\n");
}

const quoted = (text: string) => `'${text.replaceAll("'", `'\\''`)}'`;

/** A value as Python writes it. */
function python(value: unknown): string {
	if (value === null) return "None";
	if (typeof value === "boolean") return value ? "True" : "False";
	if (Array.isArray(value)) return `[${value.map(python).join(", ")}]`;
	if (typeof value === "object")
		return `{${Object.entries(value)
			.map(([key, part]) => `${JSON.stringify(key)}: ${python(part)}`)
			.join(", ")}}`;
	return JSON.stringify(value);
}
