#include "protocol/watchdogs.hpp"

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

void Watchdogs::end() {
  const std::lock_guard lock(mutex_);
  ended_ = true;
  changed_.notify_one();
}

Watchdogs::Watch::Watch(Watchdogs& dogs, Clock::time_point until, bool outlasts,
                        std::function<void()> cut)
    : dogs_(dogs) {
  const std::lock_guard lock(dogs_.mutex_);
  entry_ = dogs_.watches_.emplace(until, std::pair{outlasts, std::move(cut)});
  if (dogs_.ended_ || entry_ == dogs_.watches_.begin()) dogs_.changed_.notify_one();
}

// Waits for a call that is under way: nothing is touched afterwards.
Watchdogs::Watch::~Watch() {
  const std::lock_guard lock(dogs_.mutex_);
  dogs_.watches_.erase(entry_);
}

void Watchdogs::run() {
  constexpr auto again = std::chrono::milliseconds(5);
  std::unique_lock lock(mutex_);
  while (!over_) {
    const Clock::time_point now = Clock::now();
    bool any_cut = false;
    for (auto& [until, watch] : watches_) {
      const bool by_end = ended_ && !watch.first;
      if (until > now && !ended_) break;  // and all that follow
      if (until > now && !by_end) continue;
      watch.second();
      any_cut = true;
    }
    if (any_cut) {
      changed_.wait_for(lock, again);
    } else if (watches_.empty()) {
      changed_.wait(lock);
    } else {
      // Copied: the watch may be lifted meanwhile.
      const Clock::time_point until = watches_.begin()->first;
      changed_.wait_until(lock, until);
    }
  }
}

}  // namespace orchard::protocol
