#include "base/interruption.hpp"

namespace orchard {
namespace {

thread_local const Interruption* innermost = nullptr;

}  // namespace

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
  return asked(innermost);
}

std::optional<Ending> Interruption::asked(const Interruption* scope) {
  if (scope == nullptr) return std::nullopt;
  if (scope->stop_.stop_requested()) return Ending::stopped;
  if (scope->deadline_ && Clock::now() >= *scope->deadline_) return Ending::time;
  const auto around = asked(scope->around_);
  if (!around || scope->patience_ == Clock::duration::zero()) return around;
  const Clock::rep now = Clock::now().time_since_epoch().count();
  Clock::rep called_at = 0;
  if (scope->called_at_.compare_exchange_strong(called_at, now)) called_at = now;
  return now - called_at < scope->patience_.count() ? std::nullopt : around;
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
