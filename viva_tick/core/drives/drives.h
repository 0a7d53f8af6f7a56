#if USE_BLINK
#include "blink.h"
#endif
#if USE_BEAT
#include "beat.h"
#endif
#if USE_PULSE
#include "pulse.h"
#endif
#if USE_RAMP
#include "ramp.h"
#endif
#if USE_SEQUENCE
#include "sequence.h"
#endif
#if USE_RATE
#include "rate.h"
#endif
#if USE_FOLLOW
#include "follow.h"
#endif
