<script lang="ts">
	import { MARKS, type Speech } from '../../core/shoot/person';
	import { FLICKS_PER_SECOND } from '../../core/time/flicks';
	import { useTransport } from '../playback/transport.svelte';
	import { useShoot } from '../state/shoot-state.svelte';
	import { useSources } from '../state/sources-state.svelte';
	import { colourOf, onThemeChange, prepareCanvas } from './canvas-tools';
	import { correctEdge } from './correct-speech';
	import { PERSON_LANE_PIXELS } from './people-lanes';
	import { useScoreView } from './score-view.svelte';

	/** Who speaks when: a thin lane a person. A passage is chosen by a click, its edges are dragged. */
	const shoot = useShoot();
	const sources = useSources();
	const transport = useTransport();
	const view = useScoreView();

	const EDGE_PIXELS = 5;
	/** Paler than this nothing is drawn: how sure a passage is shows in its strength. */
	const PALEST = 0.35;

	let canvas = $state<HTMLCanvasElement>();
	let dragged = $state.raw<{
		readonly speech: Speech;
		readonly edge: 'inFlicks' | 'outFlicks';
		readonly toFlicks: number;
	}>();
	let isOverEdge = $state(false);
	/** Counts turns from paper to night. */
	let theme = $state(0);
	$effect(() => onThemeChange(() => theme++));

	const people = $derived(shoot.shoot.people);
	const height = $derived(people.length * PERSON_LANE_PIXELS);

	$effect(() => {
		if (!canvas || view.width <= 0) return;
		void theme;
		const context = prepareCanvas(canvas, view.width, height);
		const place = new Map(
			people.map((person, index) => [person.id, { mark: person.mark, y: index * PERSON_LANE_PIXELS }])
		);
		for (const speech of sources.speech) {
			const lane = place.get(speech.personId);
			if (!lane) continue;
			const { inFlicks, outFlicks } = shown(speech);
			const [from, to] = [view.x(inFlicks), view.x(outFlicks)];
			if (to < 0 || from > view.width) continue;
			const isChosen = speech === sources.chosenSpeech;
			context.globalAlpha = PALEST + (1 - PALEST) * speech.confidence;
			context.fillStyle = colourOf(`--hue-${lane.mark % MARKS}`);
			const [x, width] = [Math.max(-2, from), Math.max(1, Math.min(view.width + 2, to) - Math.max(-2, from))];
			context.fillRect(x, lane.y + 2, width, PERSON_LANE_PIXELS - 4);
			context.globalAlpha = 1;
			if (!isChosen) continue;
			context.strokeStyle = colourOf('--ink');
			context.lineWidth = 2;
			context.strokeRect(x, lane.y + 1, width, PERSON_LANE_PIXELS - 2);
		}
	});

	/** A passage as it is drawn: an edge that is dragged is where the pointer is. */
	function shown(speech: Speech): Pick<Speech, 'inFlicks' | 'outFlicks'> {
		return dragged?.speech === speech ? { ...speech, [dragged.edge]: dragged.toFlicks } : speech;
	}

	interface Hit {
		readonly speech: Speech;
		readonly edge?: 'inFlicks' | 'outFlicks';
	}

	function hit(event: PointerEvent): Hit | undefined {
		const box = canvas!.getBoundingClientRect();
		const [x, y] = [event.clientX - box.left, event.clientY - box.top];
		const person = people[Math.floor(y / PERSON_LANE_PIXELS)];
		const own = sources.speech.filter((one) => one.personId === person?.id);
		for (const speech of own)
			for (const edge of ['inFlicks', 'outFlicks'] as const)
				if (Math.abs(view.x(speech[edge]) - x) <= EDGE_PIXELS && view.x(speech.outFlicks) - view.x(speech.inFlicks) > 8)
					return { speech, edge };
		const speech = own.find((one) => view.x(one.inFlicks) <= x + 1 && view.x(one.outFlicks) >= x - 1);
		return speech && { speech };
	}

	function press(event: PointerEvent): void {
		const found = hit(event);
		if (!found) return;
		event.stopPropagation();
		const { speech, edge } = found;
		sources.personId = speech.personId;
		sources.chosen = { personId: speech.personId, atFlicks: (speech.inFlicks + speech.outFlicks) / 2 };
		if (edge) {
			canvas!.setPointerCapture(event.pointerId);
			dragged = { speech, edge, toFlicks: speech[edge] };
		} else if (!transport.playing) transport.goTo(speech.inFlicks);
	}

	function move(event: PointerEvent): void {
		if (!dragged) {
			isOverEdge = hit(event)?.edge !== undefined;
			return;
		}
		const { speech, edge } = dragged;
		const least = FLICKS_PER_SECOND / 50;
		const at = view.flicksAt(event.clientX - canvas!.getBoundingClientRect().left);
		const toFlicks =
			edge === 'inFlicks' ? Math.min(at, speech.outFlicks - least) : Math.max(at, speech.inFlicks + least);
		dragged = { ...dragged, toFlicks };
	}

	async function release(): Promise<void> {
		const done = dragged;
		if (done) await correctEdge(shoot, sources, done.speech, done.edge, Math.round(done.toFlicks));
		dragged = undefined;
	}
</script>

<!-- The pointer works here; the same is done by the fields of the chosen passage in Master, and by keys from passage to passage. -->
<canvas
	bind:this={canvas}
	class="block w-full touch-none"
	class:cursor-ew-resize={isOverEdge || dragged !== undefined}
	style:height="{height}px"
	onpointerdown={press}
	onpointermove={move}
	onpointerup={release}
	aria-label="Who speaks when"
	data-testid="people-lanes"
	data-passages={sources.speech.length}
></canvas>
