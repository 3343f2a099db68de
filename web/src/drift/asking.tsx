/** Ask the switches: one command of the list, one switch or many, and the answers side by side, those alike as one. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Fabric, type Failure, got } from "../api/client";
import { Refusal } from "../app/refusal";
import { clock, counted } from "../ui/words";
import { Earlier } from "./earlier";

interface Props {
	fabric: Fabric;
	/** The switches that can be asked, and the one that is chosen. */
	names: readonly string[];
	chosen: string | undefined;
	may: boolean;
}

export function Asking({ fabric, names, chosen, may }: Props) {
	const queries = useQueryClient();
	const [command, setCommand] = useState("");
	const [alone, setAlone] = useState(false);
	const [number, setNumber] = useState<number>();
	const { data: list } = useQuery({
		queryKey: ["commands"],
		queryFn: () => got(client.GET("/api/v1/commands")),
	});
	const { data: before } = useQuery({
		queryKey: ["fabric", fabric.name, "asks"],
		queryFn: () =>
			got(client.GET("/api/v1/fabrics/{name}/asks", { params: { path: { name: fabric.name } } })),
	});
	const shown = number ?? before?.[0]?.number;
	const { data: asked } = useQuery({
		queryKey: ["fabric", fabric.name, "ask", shown],
		queryFn: () =>
			got(
				client.GET("/api/v1/fabrics/{name}/asks/{number}", {
					params: { path: { name: fabric.name, number: shown ?? 0 } },
				}),
			),
		enabled: shown !== undefined,
		refetchInterval: (query) => (query.state.data?.waits ? 2000 : false),
	});
	const ask = useMutation<{ number: number }, Failure, void>({
		mutationFn: () =>
			got(
				client.POST("/api/v1/fabrics/{name}/asks", {
					params: { path: { name: fabric.name } },
					body: { command, switches: alone && chosen ? [chosen] : [] },
				}),
			),
		onSuccess: (begun) => {
			setNumber(begun.number);
			void queries.invalidateQueries({ queryKey: ["fabric", fabric.name, "asks"] });
		},
	});
	const said = list?.find((one) => one.command === command);
	return (
		<section aria-label="Ask the switches" className="mt-4">
			{may && (
				<form
					className="flex flex-wrap items-end gap-x-4 gap-y-2"
					onSubmit={(event) => {
						event.preventDefault();
						ask.mutate();
					}}
				>
					<label className="flex flex-col gap-1">
						A command that only looks
						<input
							className="field mono w-80 max-w-full"
							list="commands"
							value={command}
							required
							onChange={(event) => setCommand(event.target.value)}
							placeholder="show bgp summary"
						/>
					</label>
					<datalist id="commands">
						{list?.map((one) => (
							<option key={one.command} value={one.command}>
								{one.words}
							</option>
						))}
					</datalist>
					{chosen && (
						<label className="flex items-center gap-2 pb-1.5">
							<input type="checkbox" checked={alone} onChange={(event) => setAlone(event.target.checked)} />
							only <span className="mono">{chosen}</span>
						</label>
					)}
					<button type="submit" className="button-main" disabled={ask.isPending || !command.trim()}>
						{alone && chosen ? "Ask it" : `Ask ${counted(names.length, "switch", "switches")}`}
					</button>
					<span className="pb-1.5 text-soft">{said?.words}</span>
				</form>
			)}
			{ask.error && (
				<div className="mt-2">
					<Refusal failure={ask.error} />
				</div>
			)}
			{asked && (
				<>
					<p className="mt-4 text-soft" aria-live="polite">
						<span className="mono">{asked.command}</span>, asked by {asked.author || "somebody"} at{" "}
						{clock(asked.at)}
						{asked.waits && "; switches answer within a minute or so"}
					</p>
					<ul aria-label="Answers" className="mt-2">
						{asked.answers.map((one) => (
							<li key={one.switches.join()} className="border-t border-hair py-2">
								<p className="mono text-[12px]" title={one.switches.join(", ")}>
									{one.switches.slice(0, 6).join(", ")}
									{one.switches.length > 6 && ` and ${one.switches.length - 6} more`}
									{one.code ? <span className="text-madder"> ended with {one.code}</span> : null}
								</p>
								{one.answer === null ? (
									<p className="text-soft">{asked.waits ? "not yet" : "no answer in time"}</p>
								) : (
									<pre className="mono mt-1 max-h-72 overflow-auto text-[11.5px] leading-relaxed">
										{one.answer || "nothing"}
									</pre>
								)}
							</li>
						))}
					</ul>
				</>
			)}
			<Earlier
				label="Asked before"
				every={before}
				shown={shown}
				words={({ command }) => command}
				onShow={setNumber}
			/>
		</section>
	);
}
