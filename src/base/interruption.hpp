// One clock and one stop token for everything that an operation does, however deep down.
//
// Whoever begins a long operation opens an `Interruption` with its budget; whatever works under it,
// on this thread or in a crew of it, asks now and then. Scopes nest: the earliest deadline and any
// of the stop tokens count. Work that has nothing to hand over when it is cut short is left by an
// exception, `Interrupted`, which ends where the operation began.
//
// A scope belongs to the thread that opened it; the threads of a crew borrow it (`Borrowed`).
#pragma once

#include <atomic>
#include <chrono>
#include <optional>

#include "orchard/budget.hpp"

namespace orchard {

// Thrown by work that is cut short. Not an error: nothing is wrong with what was asked.
struct Interrupted {
  Ending ending;  // time, stopped, or memory where the process guards it
};

// Keeps some memory back for a process of its own: when the system gives no more, it is freed, and
// everything is interrupted from then on (`Ending::memory`), so that it ends in order with what is
// known. An allocation that fails after that ends the process with a message and `status`. Without
// this an allocation that fails throws, which not every container of other projects survives.
void guard_memory(int status);
// Whether that has happened.
bool memory_ran_out();

class Interruption {
 public:
  // Only the seconds and the stop token of the budget count.
  explicit Interruption(const Budget& budget);
  ~Interruption();
  Interruption(const Interruption&) = delete;

  // Why to end now, if there is a reason: of the innermost scope of this thread and all around it.
  // Reads the clock: some tens of nanoseconds.
  static std::optional<Ending> asked();

  // What the threads of a crew work under while they do jobs of this thread.
  class Borrowed {
   public:
    explicit Borrowed(const Interruption* lender);
    ~Borrowed();
    Borrowed(const Borrowed&) = delete;

   private:
    const Interruption* before_;
  };
  static const Interruption* current();

 private:
  friend class LastWords;
  using Clock = std::chrono::steady_clock;
  struct Due {
    Ending ending;
    Clock::time_point since;
  };
  explicit Interruption(Clock::duration patience);
  static std::optional<Due> due(const Interruption* scope);
  // For what has no time of its own: since it was first seen.
  Due seen(Ending ending) const;

  std::optional<Clock::time_point> deadline_;
  std::stop_token stop_;
  Clock::duration patience_{};                   // with the scopes around it
  mutable std::atomic<Clock::rep> seen_at_ = 0;  // when a stop was first seen; 0: not yet
  const Interruption* around_;
};

// Time for what still has to be done with what was found when the budget of an operation is spent:
// in this scope the interruptions of those around it count so much later, however many such scopes
// there are. All that an operation does after its budget fits into a tenth of a second.
class LastWords {
 public:
  explicit LastWords(std::chrono::milliseconds patience = std::chrono::milliseconds(60))
      : scope_(patience) {}

 private:
  Interruption scope_;
};

// Leaves by `Interrupted` if there is a reason to end. For steps of a microsecond and more.
inline void end_if_interrupted() {
  if (const auto ending = Interruption::asked()) throw Interrupted{*ending};
}

// The same for loops of very short steps: asks every so many calls.
class InterruptionPoint {
 public:
  explicit InterruptionPoint(unsigned every = 1024) : every_(every) {}
  void pass() {
    if (++passed_ < every_) return;
    passed_ = 0;
    end_if_interrupted();
  }

 private:
  unsigned every_;
  unsigned passed_ = 0;
};

}  // namespace orchard
