/** Barrio's mark: two warp threads and two weft threads, over and under. */
export function Mark({ size = 24 }: { size?: number }) {
	return (
		<svg width={size} height={size} viewBox="0 0 24 24" aria-hidden="true">
			<g fill="none" strokeWidth="4">
				<path stroke="var(--walnut)" d="M7 1v22M17 1v22" />
				<path stroke="var(--indigo)" d="M1 7h9M14 7h9" />
				<path stroke="var(--indigo)" d="M1 17h2M11 17h12" />
				<path stroke="var(--indigo)" d="M4.6 7h4.8M14.6 17h4.8" />
			</g>
		</svg>
	);
}
