#include "orchard/budget.hpp"

#include <unistd.h>

#include "base/interruption.hpp"

namespace orchard {

std::string_view name_of(Ending ending) {
  switch (ending) {
    case Ending::complete:
      return "complete";
    case Ending::time:
      return "time";
    case Ending::positions:
      return "positions";
    case Ending::memory:
      return "memory";
    case Ending::depth:
      return "depth";
    case Ending::stopped:
      return "stopped";
  }
  return "unknown";
}

std::optional<Ending> Stopwatch::check(std::uint64_t done, std::uint64_t depth,
                                       std::uint64_t bytes) {
  constexpr double report_every = 0.25;  // seconds
  if (budget_.stop.stop_requested()) return Ending::stopped;
  if (const auto around = Interruption::asked()) return around;
  if (budget_.positions && done >= *budget_.positions) return Ending::positions;
  if (budget_.memory_bytes && bytes > *budget_.memory_bytes) return Ending::memory;
  if (!budget_.seconds && !budget_.progress) return std::nullopt;
  const double now = seconds();
  if (budget_.progress && now - reported_ >= report_every) {
    reported_ = now;
    budget_.progress({done, depth, now, bytes});
  }
  if (budget_.seconds && now >= *budget_.seconds) return Ending::time;
  return std::nullopt;
}

std::optional<std::uint64_t> half_of_memory() {
  const long pages = ::sysconf(_SC_PHYS_PAGES);
  const long page = ::sysconf(_SC_PAGE_SIZE);
  if (pages <= 0 || page <= 0) return std::nullopt;
  return static_cast<std::uint64_t>(pages) * static_cast<std::uint64_t>(page) / 2;
}

}  // namespace orchard
