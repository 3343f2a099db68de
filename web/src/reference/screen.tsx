/** Every call that the API takes, from its own document: by what it is about, with what goes in and what comes out. */
import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { said } from "../app/calls";
import { Screen } from "../app/screen";
import { Margin, MarginHead } from "../ui/margin";
import { usePlace } from "../ui/place";
import { counted } from "../ui/words";
import { type Document, type Operation, operations, sample, typed } from "./document";

export function ReferenceScreen() {
	const [place, go] = usePlace("call", "text");
	const { data, error } = useQuery({
		queryKey: ["openapi"],
		queryFn: async () => (await (await fetch("/api/v1/openapi.json")).json()) as Document,
		staleTime: Number.POSITIVE_INFINITY,
	});
	const all = useMemo(() => (data ? operations(data) : []), [data]);
	const words = (place.text ?? "").toLowerCase();
	const shown = all.filter((one) => `${one.id} ${one.path} ${one.words}`.toLowerCase().includes(words));
	const chosen = all.find((one) => one.id === place.call);
	const tags = [...new Set(shown.map((one) => one.tag))];
	return (
		<Screen title="API">
			<div className="flex min-h-0">
				<main className="flex min-w-0 flex-1 flex-col px-8 pt-5">
					<div className="flex items-baseline gap-4 pb-3">
						<h1 className="text-[17px] font-bold">
							{data ? counted(shown.length, "call") : "The API’s document is read…"}
						</h1>
						<input
							type="search"
							aria-label="Find a call"
							className="field h-7 w-64"
							placeholder="Find a call"
							value={place.text ?? ""}
							onChange={(event) => go({ ...place, text: event.target.value || undefined })}
						/>
						<a className="button-plain ml-auto" href="/api/v1/openapi.json" download="barrio-openapi.json">
							The whole document (OpenAPI)
						</a>
					</div>
					{error && <p className="text-madder">The API's document could not be read.</p>}
					<div className="min-h-0 flex-1 overflow-y-auto pb-8">
						{tags.map((tag) => (
							<section key={tag} aria-label={tag}>
								<h2 className="sticky top-0 border-b border-hair bg-paper pt-3 pb-1 text-[14px] font-bold">
									{tag}
								</h2>
								<ul>
									{shown
										.filter((one) => one.tag === tag)
										.map((one) => (
											<li key={one.id}>
												<button
													type="button"
													aria-current={one.id === place.call}
													className={`flex w-full items-baseline gap-3 border-b border-hair/60 py-0.5 text-left ${one.id === place.call ? "bg-chosen" : "hover:bg-raised"}`}
													onClick={() => go({ ...place, call: one.id })}
												>
													<b className="mono w-14 flex-none">{one.method}</b>
													<span className="mono min-w-0 flex-1 truncate">{one.path}</span>
													<span className="w-[40%] truncate text-soft">{one.words.split("\n")[0]}</span>
												</button>
											</li>
										))}
								</ul>
							</section>
						))}
					</div>
				</main>
				<Margin width={420}>
					{chosen && data ? (
						<What one={chosen} document={data} />
					) : (
						<p className="pr-6 text-soft">
							Choose a call to see what goes in, what comes out, and how it is made from a shell and in
							Python. Tokens are made on your own page.
						</p>
					)}
				</Margin>
			</div>
		</Screen>
	);
}

function What({ one, document }: { one: Operation; document: Document }) {
	const url = `${location.origin}${one.path}`;
	const body = one.body ? JSON.stringify(sample(document, one.body)) : "";
	const call = { method: one.method, url, body };
	return (
		<>
			<MarginHead
				kind={`${one.method}, ${one.right ? `needs the right to ${one.right}` : "open"}`}
				title={one.path}
				mono
			/>
			{one.words && <p className="mb-3 whitespace-pre-wrap">{one.words}</p>}
			{one.parameters.length > 0 && (
				<>
					<div className="label-small">Parameters</div>
					<dl className="mb-3">
						{one.parameters.map((each) => (
							<div key={`${each.in} ${each.name}`} className="flex gap-2 border-b border-hair/60 py-0.5">
								<dt className="mono w-32 flex-none">{each.name}</dt>
								<dd className="text-soft">
									{typed(document, each.schema)}, in the {each.in}
									{each.required && ", always"}
								</dd>
							</div>
						))}
					</dl>
				</>
			)}
			{one.body && <Shape title="Body" text={typed(document, one.body, 2)} />}
			{one.answer && <Shape title={`Answer ${one.status}`} text={typed(document, one.answer, 2)} />}
			<Shape title="From a shell" text={said(call, "curl")} />
			<Shape title="In Python" text={said(call, "python")} />
		</>
	);
}

function Shape({ title, text }: { title: string; text: string }) {
	return (
		<>
			<div className="label-small">{title}</div>
			<pre className="mb-3 overflow-x-auto font-mono text-[11.5px] leading-[1.5] whitespace-pre-wrap">
				{text}
			</pre>
		</>
	);
}
