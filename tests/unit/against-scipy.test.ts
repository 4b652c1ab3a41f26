import { describe, expect, it } from 'vitest';
import { seededRandom } from '../../demo/random';
import { leastSquares } from '../../src/lib/core/fitting/least-squares';
import { BAND_COUNT, type BandFeatures } from '../../src/lib/core/features/band-features';
import { layGround, passageClass, searchPassage } from '../../src/lib/core/match/search/coarse-search';
import { createWindowCorrelator } from '../../src/lib/core/match/windows/window-correlation';
import { createDecimator } from '../../src/lib/core/signal/decimate';
import { CORRECTION_REACH, sampleAt } from '../../src/lib/core/signal/clock-correction';
import { fastFftProvider } from '../../src/lib/server/engine/fast-fft';
import { installedPath, spawnSync } from '../../scripts/outside-programs';

/** Runs a program of NumPy and SciPy (Debian's python3-scipy): `given` is what it gets, what it prints as JSON comes back. */
function scipy(program: string, given: object): number[] {
	const head = 'import json, sys\nimport numpy as np\nfrom scipy import signal\ngiven = json.load(sys.stdin)\n';
	const { stdout, stderr, status } = spawnSync(installedPath('/usr/bin/python3'), ['-c', head + program], {
		input: JSON.stringify(given),
		encoding: 'utf8',
		maxBuffer: 2 ** 28
	});
	if (status !== 0) throw new Error(stderr);
	return JSON.parse(stdout) as number[];
}

function noise(length: number, seed: number): number[] {
	const random = seededRandom(seed);
	return Array.from({ length }, () => Math.round(3000 * (random() + random() + random() - 1.5)));
}

/** Sines below 3 kHz, sampled at a rate. */
function sines(length: number, rate: number, seed: number): Float32Array {
	const random = seededRandom(seed);
	const partials = Array.from({ length: 30 }, () => [60 + 2900 * random(), 6.283 * random()] as const);
	return Float32Array.from({ length }, (_, i) =>
		partials.reduce((sum, [hertz, phase]) => sum + 0.03 * Math.sin((2 * Math.PI * hertz * i) / rate + phase), 0)
	);
}

function likeness(a: ArrayLike<number>, b: ArrayLike<number>): number {
	let [ab, aa, bb] = [0, 0, 0];
	for (let i = 0; i < a.length; i++) {
		ab += a[i]! * b[i]!;
		aa += a[i]! ** 2;
		bb += b[i]! ** 2;
	}
	return ab / Math.sqrt(aa * bb);
}

describe('against SciPy', () => {
	it('decimation agrees with scipy.signal.resample_poly, without a delay', async () => {
		const decimator = createDecimator(6, await fastFftProvider());
		const input = sines(decimator.inputSamples, 48_000, 3);
		const expected = scipy('print(json.dumps(signal.resample_poly(given["x"], 1, 6).tolist()))', { x: [...input] });
		const first = decimator.marginSamples / 6;
		const output = [...decimator.run(input)];
		const worst = Math.max(...output.map((value, i) => Math.abs(value - expected[first + i]!)));
		// Both filters' ripple: -60 dB of the signal's peak.
		expect(worst).toBeLessThan(1e-3);
	});

	it('the whitened correlation of windows agrees with the formula in double precision', async () => {
		const a = noise(6000, 5);
		const b = noise(7000, 6).map((x, i) => x + (a[i - 240] ?? 0));
		const [length, reach] = [4096 - 600, 300];
		const row = createWindowCorrelator(await fastFftProvider())(
			Int16Array.from(a),
			1000,
			1,
			Int16Array.from(b),
			1100,
			length,
			reach
		)!;
		const program = `
n, reach = given["length"], given["reach"]
edge = n // 8
w = np.ones(n)
rise = 0.5 - 0.5 * np.cos(np.pi * np.arange(edge) / edge)
w[:edge] = rise
w[n - edge:] = rise[::-1]
x = np.fft.rfft(np.array(given["a"][1000:1000 + n], float) * w, 4096)
y = np.fft.rfft(np.array(given["b"][1100 - reach:1100 + n + reach], float), 4096)
cross = np.conj(x) * y
hertz = np.fft.rfftfreq(4096, 1 / 8000)
cross[(hertz < 119) | (hertz > 3701)] = 0
cross /= np.maximum(np.abs(cross), 1e-12) ** (7 / 8)
print(json.dumps(np.fft.irfft(cross)[: 2 * reach + 1].tolist()))`;
		const expected = scipy(program, { a, b, length, reach });
		// Ours takes the power to 6%.
		expect(likeness(row, expected)).toBeGreaterThan(0.998);
		expect(row.indexOf(Math.max(...row))).toBe(expected.indexOf(Math.max(...expected)));
	});

	it('a passage is found where scipy.signal.correlate finds it', async () => {
		const [groundFrames, passageFrames, place] = [5000, 700, 3123];
		const random = seededRandom(9);
		const view = (frames: number) => Float32Array.from({ length: BAND_COUNT * frames }, () => random() - 0.5);
		const ground: BandFeatures = { frames: groundFrames, energy: view(groundFrames), flux: view(groundFrames) };
		const passage: BandFeatures = { frames: passageFrames, energy: view(passageFrames), flux: view(passageFrames) };
		for (let band = 0; band < BAND_COUNT; band++)
			for (const kind of ['energy', 'flux'] as const)
				for (let i = 0; i < passageFrames; i++) {
					const at = band * passageFrames + i;
					passage[kind][at] = passage[kind][at]! * 2 + ground[kind][band * groundFrames + place + i]!;
				}
		const provider = await fastFftProvider();
		const [best] = searchPassage(passage, layGround(ground, passageClass(passageFrames), provider), provider);
		const program = `
def rows(one): return np.array(one).reshape(given["bands"], -1)
total = sum(signal.correlate(g, p, "valid") for g, p in zip(rows(given["ground"]), rows(given["passage"])))
print(json.dumps([int(np.argmax(total))]))`;
		const [expected] = scipy(program, {
			bands: BAND_COUNT,
			ground: [...ground.energy],
			passage: [...passage.energy]
		});
		expect(expected).toBe(place);
		expect(best!.seconds * 50).toBeCloseTo(expected!, 6);
		expect(best!.height).toBeGreaterThan(10);
	});

	it('clock correction agrees with scipy.signal.resample', () => {
		// A whole number of periods, so that the reference's circle closes.
		const length = 4800;
		const input = Float32Array.from({ length }, (_, i) =>
			[7, 31, 150, 480].reduce((sum, turns) => sum + 0.2 * Math.sin((2 * Math.PI * turns * i) / length + turns), 0)
		);
		const expected = scipy('print(json.dumps(signal.resample(given["x"], 4801).tolist()))', { x: [...input] });
		let worst = 0;
		for (let i = CORRECTION_REACH + 5; i < 4801 - CORRECTION_REACH - 5; i++)
			worst = Math.max(worst, Math.abs(sampleAt(input, 1, 0, (i * length) / 4801) - expected[i]!));
		expect(worst).toBeLessThan(1e-3);
	});

	it('least squares agree with numpy.linalg.lstsq', () => {
		const random = seededRandom(12);
		const rows = Array.from({ length: 40 }, () => Array.from({ length: 6 }, () => random() - 0.5));
		const values = rows.map(() => random());
		const weights = rows.map(() => 0.5 + random());
		const ours = leastSquares(
			6,
			rows.map((row, i) => ({ terms: row.map((p, k) => [k, p] as const), value: values[i]!, weight: weights[i]! }))
		);
		const program = `
w = np.sqrt(np.array(given["weights"]))
x = np.linalg.lstsq(np.array(given["rows"]) * w[:, None], np.array(given["values"]) * w, rcond=None)[0]
print(json.dumps(x.tolist()))`;
		const expected = scipy(program, { rows, values, weights });
		for (const [index, value] of expected.entries()) expect(ours[index]).toBeCloseTo(value, 9);
	});
});
