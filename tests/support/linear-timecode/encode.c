/* Writes linear timecode as 8-bit unsigned samples, by libltc: what our reader is checked against. */
#include <ltc.h>
#include <stdio.h>
#include <stdlib.h>

int main(int count, char **words) {
	if (count != 10) {
		fprintf(stderr, "encode RATE FPS DROP HOURS MINUTES SECONDS FRAMES COUNT REVERSED\n");
		return 2;
	}
	double rate = atof(words[1]), fps = atof(words[2]);
	int drop = atoi(words[3]), frames = atoi(words[8]), reversed = atoi(words[9]);
	enum LTC_TV_STANDARD standard = fps < 24.5 ? LTC_TV_FILM_24 : fps < 25.5 ? LTC_TV_625_50 : LTC_TV_525_60;
	LTCEncoder *encoder = ltc_encoder_create(rate, fps, standard, 0);
	SMPTETimecode start = {"+0000", 26, 11, 25, atoi(words[4]), atoi(words[5]), atoi(words[6]), atoi(words[7])};
	ltc_encoder_set_timecode(encoder, &start);
	LTCFrame frame;
	ltc_encoder_get_frame(encoder, &frame);
	frame.dfbit = drop ? 1 : 0;
	ltc_frame_set_parity(&frame, standard);
	ltc_encoder_set_frame(encoder, &frame);
	for (int i = 0; i < frames; i++) {
		ltc_encoder_encode_frame(encoder);
		ltcsnd_sample_t *samples;
		int length = ltc_encoder_get_bufferptr(encoder, &samples, 1);
		for (int k = 0; k < length; k++) putchar(reversed ? 255 - samples[k] : samples[k]);
		ltc_encoder_inc_timecode(encoder);
	}
	ltc_encoder_free(encoder);
	return 0;
}
