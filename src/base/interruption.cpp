#include "base/interruption.hpp"

#include <unistd.h>

#include <cstdlib>
#include <mutex>
#include <new>
#include <string_view>
#include <thread>

namespace orchard {
namespace {

thread_local const Interruption* innermost = nullptr;

// Of the guard. Plain pointers and numbers: nothing here may allocate.
std::mutex guard_mutex;
void* reserve = nullptr;
std::atomic<bool> ran_out = false;
int patience_left = 200;  // times that an allocation may fail after the reserve was freed
int status_at_end = 1;

void on_no_memory() {
  {
    const std::lock_guard lock(guard_mutex);
    if (reserve != nullptr) {
      std::free(reserve);
      reserve = nullptr;
      ran_out = true;
      return;  // and the allocation is tried again
    }
    if (--patience_left < 0) {
      constexpr std::string_view message = "orchard: out of memory\n";
      (void)!::write(STDERR_FILENO, message.data(), message.size());
      std::_Exit(status_at_end);
    }
  }
  // Other threads are about to give back what they have.
  std::this_thread::sleep_for(std::chrono::milliseconds(5));
}

}  // namespace

void guard_memory(int status) {
  constexpr std::size_t kept_back = 32 << 20;
  status_at_end = status;
  reserve = std::malloc(kept_back);  // addresses: it takes no memory before it is used
  std::set_new_handler(on_no_memory);
}

bool memory_ran_out() {
  return ran_out;
}

Interruption::Interruption(const Budget& budget) : stop_(budget.stop), around_(innermost) {
  constexpr double for_ever = 3e9;  // a hundred years; much more is more than the clock can hold
  if (budget.seconds && *budget.seconds < for_ever) {
    using Seconds = std::chrono::duration<double>;
    deadline_ =
        Clock::now() + std::chrono::duration_cast<Clock::duration>(Seconds(*budget.seconds));
  }
  innermost = this;
}

Interruption::Interruption(Clock::duration patience) : patience_(patience), around_(innermost) {
  innermost = this;
}

Interruption::~Interruption() {
  innermost = around_;
}

std::optional<Ending> Interruption::asked() {
  if (innermost == nullptr) return ran_out ? std::optional(Ending::memory) : std::nullopt;
  const auto called = due(innermost);
  return called ? std::optional(called->ending) : std::nullopt;
}

Interruption::Due Interruption::seen(Ending ending) const {
  const Clock::rep now = Clock::now().time_since_epoch().count();
  Clock::rep seen_at = 0;
  if (seen_at_.compare_exchange_strong(seen_at, now)) seen_at = now;
  return {ending, Clock::time_point(Clock::duration(seen_at))};
}

std::optional<Interruption::Due> Interruption::due(const Interruption* scope) {
  if (scope->stop_.stop_requested()) return scope->seen(Ending::stopped);
  if (scope->deadline_ && Clock::now() >= *scope->deadline_) {
    return Due{Ending::time, *scope->deadline_};
  }
  std::optional<Due> around;
  if (scope->around_ != nullptr) {
    around = due(scope->around_);
  } else if (ran_out) {
    around = scope->seen(Ending::memory);
  }
  if (!around || scope->patience_ == Clock::duration::zero()) return around;
  return Clock::now() - around->since < scope->patience_ ? std::nullopt : around;
}

const Interruption* Interruption::current() {
  return innermost;
}

Interruption::Borrowed::Borrowed(const Interruption* lender) : before_(innermost) {
  innermost = lender;
}

Interruption::Borrowed::~Borrowed() {
  innermost = before_;
}

}  // namespace orchard
