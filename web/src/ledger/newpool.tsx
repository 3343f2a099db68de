/** A pool that no brief has asked for yet, and a scope to put it in. */
import * as Popover from "@radix-ui/react-popover";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type Pool } from "../api/client";
import { Asked, Field } from "../app/asked";
import { usePoolAct } from "./act";

const KINDS: [Pool["kind"], string][] = [
	["addresses", "addresses"],
	["asn", "ASNs"],
	["vlan", "VLANs"],
	["vni", "VNIs"],
	["pair", "pair domains"],
];

export function NewPool({ onMade }: { onMade: (name: string) => void }) {
	const [open, setOpen] = useState(false);
	const [name, setName] = useState("");
	const [ranges, setRanges] = useState("");
	const [kind, setKind] = useState<Pool["kind"]>("addresses");
	const [scope, setScope] = useState("site");
	const scopes = useQuery({
		queryKey: ["pools", "scopes"],
		queryFn: () => got(client.GET("/api/v1/scopes")),
		enabled: open,
	}).data;
	const known = (scopes ?? []).some((one) => one.name === scope);
	const make = usePoolAct(
		async () => {
			if (!known) await got(client.POST("/api/v1/scopes", { body: { name: scope, note: "" } }));
			const said = ranges.split(/[\s,]+/).filter(Boolean);
			return got(
				client.POST("/api/v1/pools", {
					body: { name, ranges: said, kind, plan: "lowest", scope, parent: null, private_to: null, note: "" },
				}),
			);
		},
		() => `Pool ${name} is made. A brief draws from it when its numbers say so.`,
	);
	return (
		<Popover.Root open={open} onOpenChange={setOpen}>
			<Popover.Trigger className="button-plain">New pool</Popover.Trigger>
			<Popover.Portal>
				<Popover.Content
					align="end"
					sideOffset={4}
					className="z-30 w-[340px] rounded-[4px] border border-hair bg-raised p-3 shadow-md"
				>
					<Asked
						act={make}
						verb="Make it"
						onTake={() =>
							make.mutate(undefined, {
								onSuccess: () => {
									setOpen(false);
									onMade(name);
								},
							})
						}
					>
						<Field label="Its name" mono value={name} set={setName} required />
						<label className="flex flex-col gap-1">
							It holds
							<select
								className="field"
								value={kind}
								onChange={(event) => setKind(event.target.value as Pool["kind"])}
							>
								{KINDS.map(([value, word]) => (
									<option key={value} value={value}>
										{word}
									</option>
								))}
							</select>
						</label>
						<Field
							label="Ranges, with commas between them"
							mono
							value={ranges}
							placeholder="10.62.0.0/20, fd62::/64"
							set={setRanges}
							required
						/>
						<label className="flex flex-col gap-1">
							Scope: numbers differ within it
							<input
								className="field mono"
								list="scopes"
								value={scope}
								onChange={(event) => setScope(event.target.value)}
								required
							/>
							<datalist id="scopes">
								{scopes?.map((one) => (
									<option key={one.name} value={one.name} />
								))}
							</datalist>
							{scopes && !known && (
								<span className="text-[11.8px] text-weld-ink">
									A new scope: its numbers may repeat those of others.
								</span>
							)}
						</label>
					</Asked>
				</Popover.Content>
			</Popover.Portal>
		</Popover.Root>
	);
}
