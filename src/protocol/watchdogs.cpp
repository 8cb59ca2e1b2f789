#include "protocol/watchdogs.hpp"

#include <algorithm>
#include <utility>

namespace orchard::protocol {

Watchdogs::Watchdogs() : thread_([this] { run(); }) {}

Watchdogs::~Watchdogs() {
  {
    const std::lock_guard lock(mutex_);
    over_ = true;
  }
  changed_.notify_one();
  thread_.join();
}

Watchdogs::Watch::Watch(Watchdogs& dogs, Clock::time_point until, std::function<void()> cut)
    : dogs_(dogs) {
  const std::lock_guard lock(dogs_.mutex_);
  entry_ = dogs_.watches_.emplace(until, std::move(cut));
  if (entry_ == dogs_.watches_.begin()) dogs_.changed_.notify_one();
}

// Waits for a call that is under way: nothing is touched afterwards.
Watchdogs::Watch::~Watch() {
  const std::lock_guard lock(dogs_.mutex_);
  dogs_.watches_.erase(entry_);
}

void Watchdogs::run() {
  std::unique_lock lock(mutex_);
  while (!over_) {
    const auto next = std::ranges::find_if(
        watches_, [](const auto& watch) { return static_cast<bool>(watch.second); });
    if (next == watches_.end()) {
      changed_.wait(lock);
    } else if (Clock::now() < next->first) {
      // Copied: the watch may be lifted meanwhile.
      const Clock::time_point until = next->first;
      changed_.wait_until(lock, until);
    } else {
      std::exchange(next->second, nullptr)();
    }
  }
}

}  // namespace orchard::protocol
