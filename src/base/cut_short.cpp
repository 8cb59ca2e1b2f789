#include "base/cut_short.hpp"

#include <fmt/core.h>

namespace orchard {

std::string_view why_cut_short(Ending ending) {
  switch (ending) {
    case Ending::time:
      return "the time was used up";
    case Ending::memory:
      return "memory ran out";
    default:
      return "it was interrupted";
  }
}

Diagnostic cut_short(Ending ending, std::string_view what) {
  const bool time = ending == Ending::time;
  const bool memory = ending == Ending::memory;
  Diagnostic fault = plain_error(time     ? "out-of-time"
                                 : memory ? "out-of-memory"
                                          : "interrupted",
                                 fmt::format("{}: {}", what, why_cut_short(ending)),
                                 time     ? "give more seconds"
                                 : memory ? "give it more memory, or make the sizes smaller"
                                          : "let it go on");
  fault.is_limit = true;
  return fault;
}

}  // namespace orchard
