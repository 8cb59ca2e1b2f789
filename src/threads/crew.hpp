// Threads that wait for work, do the jobs of it together with whoever gives it, and wait again.
//
// The one who gives it is worker 0. Jobs are taken in the order of their numbers, by whoever is
// free. Where the system does not start as many threads as were asked for, those that there are do
// the work. An interruption of whoever gives the work is one of all. An exception that a job throws
// (no memory left) ends the work: jobs that were begun are finished, the others are not begun, and
// whoever gave the work gets the exception.
#pragma once

#include <atomic>
#include <exception>
#include <functional>
#include <thread>
#include <utility>
#include <vector>

#include "base/interruption.hpp"

namespace orchard {

class Crew {
 public:
  using Work = std::function<void(std::size_t worker, std::size_t job)>;

  explicit Crew(unsigned threads) {
    threads_.reserve(threads);
    try {
      for (std::size_t worker = 1; worker < threads; ++worker) {
        threads_.emplace_back([this, worker] { wait_and_work(worker); });
      }
    } catch (...) {  // as many as could be started
    }
  }
  ~Crew() {
    work_ = nullptr;
    ++round_;
    round_.notify_all();
  }
  Crew(const Crew&) = delete;

  std::size_t workers() const { return threads_.size() + 1; }

  // One job for every worker, all of them the same.
  template <class Do>
  void all(const Do& same) {
    work(workers(), [&](std::size_t, std::size_t job) { same(job); });
  }

  // Returns when all jobs are done; throws what the first one threw that failed.
  void work(std::size_t jobs, const Work& work) {
    work_ = &work;
    jobs_ = jobs;
    lender_ = Interruption::current();
    next_ = 0;
    busy_ = threads_.size();
    ++round_;
    round_.notify_all();
    take_jobs(0);
    for (std::size_t busy = busy_; busy != 0; busy = busy_) busy_.wait(busy);
    if (failed_.exchange(false)) std::rethrow_exception(std::exchange(fault_, nullptr));
  }

 private:
  void take_jobs(std::size_t worker) {
    try {
      for (std::size_t job = next_++; job < jobs_ && !failed_; job = next_++) (*work_)(worker, job);
    } catch (...) {
      if (!failed_.exchange(true)) fault_ = std::current_exception();
    }
  }
  void wait_and_work(std::size_t worker) {
    for (std::size_t seen = 0;; ++seen) {
      round_.wait(seen);
      if (work_ == nullptr) return;
      {
        const Interruption::Borrowed borrowed(lender_);
        take_jobs(worker);
      }
      --busy_;
      busy_.notify_all();
    }
  }

  const Work* work_ = nullptr;
  const Interruption* lender_ = nullptr;  // of whoever gave the work
  std::size_t jobs_ = 0;
  std::atomic<std::size_t> next_{0};
  std::atomic<std::size_t> busy_{0};
  std::atomic<std::size_t> round_{0};
  std::atomic<bool> failed_{false};
  std::exception_ptr fault_;           // of whoever set `failed_`, until all have ended
  std::vector<std::jthread> threads_;  // last, so that they end before the rest goes
};

}  // namespace orchard
