#include "protocol/thinkers.hpp"

#include <sys/resource.h>
#include <unistd.h>

#include <algorithm>

namespace orchard::protocol {

Thinkers::Thinkers(unsigned threads) {
  for (unsigned i = 0; i < std::max(1u, threads); ++i) {
    threads_.emplace_back([this](const std::stop_token& stop) { work(stop); });
  }
}

Thinkers::~Thinkers() {
  for (std::jthread& thread : threads_) thread.request_stop();
}

void Thinkers::add(Clock::time_point deadline, Job job) {
  {
    const std::lock_guard lock(mutex_);
    jobs_.emplace(deadline, std::move(job));
  }
  waiting_.notify_one();
}

namespace {

// Whoever answers goes before whoever thinks, or answers are late on a busy machine.
void step_back() {
  constexpr int later = 10;  // of 19
  (void)::setpriority(PRIO_PROCESS, static_cast<id_t>(::gettid()), later);
}

}  // namespace

void Thinkers::work(const std::stop_token& stop) {
  step_back();
  std::unique_lock lock(mutex_);
  while (waiting_.wait(lock, stop, [&] { return !jobs_.empty(); }) && !stop.stop_requested()) {
    const Clock::time_point now = Clock::now();
    const auto first = jobs_.begin();
    const Clock::time_point deadline = first->first;
    const Job job = std::move(first->second);
    jobs_.erase(first);
    if (deadline <= now) continue;
    // What waits and is due no later than twice the time that is left shares it with this.
    const auto due = static_cast<std::size_t>(
        std::distance(jobs_.begin(), jobs_.upper_bound(deadline + (deadline - now))));
    // Where others wait, half of it: jobs end late now and then, and more may come.
    const auto threads = static_cast<double>(threads_.size());
    const auto others = static_cast<double>(due + thinking_);
    const double share = (due == 0 ? threads : 0.5 * threads) / (others + 1);
    const Clock::time_point until =
        now + std::chrono::duration_cast<Clock::duration>((deadline - now) * std::min(1.0, share));
    ++thinking_;
    lock.unlock();
    job(until);
    lock.lock();
    --thinking_;
  }
}

}  // namespace orchard::protocol
