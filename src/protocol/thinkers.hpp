// Threads that think about choices, the most urgent one first, each for a fair share of the time
// that is left: with many choices due at once each gets less, and all are in time.
//
// Any thread may give work. A job is called with the time by which it should end; it need not be
// called at all if its deadline is over before. Ends with its owner: jobs that wait are dropped.
#pragma once

#include <chrono>
#include <condition_variable>
#include <functional>
#include <map>
#include <mutex>
#include <stop_token>
#include <thread>
#include <vector>

namespace orchard::protocol {

class Thinkers {
 public:
  using Clock = std::chrono::steady_clock;
  using Job = std::function<void(Clock::time_point until)>;

  explicit Thinkers(unsigned threads);
  ~Thinkers();
  Thinkers(const Thinkers&) = delete;

  void add(Clock::time_point deadline, Job job);

 private:
  void work(const std::stop_token& stop);

  std::mutex mutex_;  // guards what follows
  std::condition_variable_any waiting_;
  std::multimap<Clock::time_point, Job> jobs_;
  unsigned thinking_ = 0;

  std::vector<std::jthread> threads_;  // last, so that they end before the rest goes
};

}  // namespace orchard::protocol
