/** What waits for whoever is signed in: drafts to look at, to answer for, to seal. */
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { client, got } from "../api/client";

export function Waiting() {
	const { data } = useQuery({
		queryKey: ["waiting"],
		queryFn: () => got(client.GET("/api/v1/waiting")),
		refetchInterval: 30_000,
	});
	if (!data?.length) return null;
	return (
		<section aria-label="Waits for you" className="mb-6 border-l-4 border-weld pl-4">
			<h2 className="label-small">Waits for you</h2>
			<ul>
				{data.map((one) => (
					<li key={one.fabric} className="flex items-baseline gap-3 py-0.5">
						<Link className="font-semibold text-indigo hover:underline" to={`/f/${one.fabric}/editions`}>
							{one.fabric}: {one.title}
						</Link>
						<span className="text-soft">{one.words}</span>
					</li>
				))}
			</ul>
		</section>
	);
}
