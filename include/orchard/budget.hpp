// How much a long operation may spend, and what it says when it ends.
//
// Every long operation takes a Budget by const reference and returns an Ending. It looks at the
// clock and the stop token often enough to end within a fraction of a second.
#pragma once

#include <chrono>
#include <cstdint>
#include <functional>
#include <optional>
#include <stop_token>
#include <string>
#include <string_view>

namespace orchard {

// Why an operation came to its end: done, or stopped by a limit or by the caller.
enum class Ending {
  complete,   // all there was to do, or the amount asked for
  time,       // the seconds were used up
  positions,  // the number of positions was reached
  memory,     // the memory was used up
  depth,      // deeper positions are not known to the circuit (with_reached_circuit)
  stopped,    // the stop token asked for it
};

// The word that the command prints for it.
std::string_view name_of(Ending ending);

// A report on the way. `done` counts what the operation counts (positions, games); `depth` is
// its depth in plies where it has one, else 0.
struct Progress {
  // What was done so far, in the operation's own unit: positions, games, matches.
  std::uint64_t done = 0;
  // The depth reached, in plies; 0 where the operation has no depth.
  std::uint64_t depth = 0;
  // Seconds since the operation began.
  double seconds = 0;
  std::uint64_t bytes = 0;  // that keep them, if known
};

// Where an exploration is saved now and then, and whenever it ends, so that it goes on from there
// the next time. The folder is made if it is not there.
struct Checkpoint {
  // The folder in which the state is saved.
  std::string folder{};
  // The least number of seconds between two saves.
  double every_seconds = 30;
};

// What an operation may spend; what is not set has no bound.
struct Budget {
  // The most time that may pass, by the clock; no limit if empty.
  std::optional<double> seconds{};
  // What counts as one is said by the operation.
  std::optional<std::uint64_t> positions{};
  std::optional<std::uint64_t> memory_bytes{};  // for what the operation stores
  // Ends the operation early, within a tenth of a second, with what was found so far.
  std::stop_token stop{};
  std::function<void(const Progress&)> progress;  // called a few times a second, on its thread
  std::optional<Checkpoint> checkpoint{};         // of those that explore positions
};

// Half of the memory of this machine, in bytes; nothing where that cannot be told.
std::optional<std::uint64_t> half_of_memory();

// The clock of one operation under a budget. Not shared between threads.
class Stopwatch {
 public:
  // Begins now; the budget must outlive it.
  explicit Stopwatch(const Budget& budget) : budget_(budget) {}

  // Seconds since the stopwatch was made.
  double seconds() const {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start_).count();
  }

  // Why to end now, if there is a reason; reports progress when a report is due. Reads the clock:
  // some tens of nanoseconds.
  std::optional<Ending> check(std::uint64_t done, std::uint64_t depth = 0, std::uint64_t bytes = 0);
  // Whether it is time to save; asked as often.
  bool save_is_due() const {
    return budget_.checkpoint && seconds() - saved_ >= budget_.checkpoint->every_seconds;
  }
  // Begins the time until the next save anew.
  void saved() { saved_ = seconds(); }

 private:
  const Budget& budget_;
  std::chrono::steady_clock::time_point start_ = std::chrono::steady_clock::now();
  double reported_ = 0;
  double saved_ = 0;
};

}  // namespace orchard
