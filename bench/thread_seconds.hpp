// Processor time of this thread: other work on the machine counts as little as can be.
#pragma once

#include <time.h>

namespace orchard::bench {

inline double thread_seconds() {
  timespec now{};
  ::clock_gettime(CLOCK_THREAD_CPUTIME_ID, &now);
  return static_cast<double>(now.tv_sec) + 1e-9 * static_cast<double>(now.tv_nsec);
}

}  // namespace orchard::bench
