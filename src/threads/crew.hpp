// Threads that wait for work, do the jobs of it together with whoever gives it, and wait again.
//
// The one who gives it is worker 0. Jobs are taken in the order of their numbers, by whoever is
// free.
#pragma once

#include <atomic>
#include <functional>
#include <thread>
#include <vector>

namespace orchard {

class Crew {
 public:
  using Work = std::function<void(std::size_t worker, std::size_t job)>;

  explicit Crew(unsigned threads) {
    for (std::size_t worker = 1; worker < threads; ++worker) {
      threads_.emplace_back([this, worker] { wait_and_work(worker); });
    }
  }
  ~Crew() {
    work_ = nullptr;
    ++round_;
    round_.notify_all();
  }
  Crew(const Crew&) = delete;

  std::size_t workers() const { return threads_.size() + 1; }

  // Returns when all jobs are done.
  void work(std::size_t jobs, const Work& work) {
    work_ = &work;
    jobs_ = jobs;
    next_ = 0;
    busy_ = threads_.size();
    ++round_;
    round_.notify_all();
    take_jobs(0);
    for (std::size_t busy = busy_; busy != 0; busy = busy_) busy_.wait(busy);
  }

 private:
  void take_jobs(std::size_t worker) {
    for (std::size_t job = next_++; job < jobs_; job = next_++) (*work_)(worker, job);
  }
  void wait_and_work(std::size_t worker) {
    for (std::size_t seen = 0;; ++seen) {
      round_.wait(seen);
      if (work_ == nullptr) return;
      take_jobs(worker);
      --busy_;
      busy_.notify_all();
    }
  }

  const Work* work_ = nullptr;
  std::size_t jobs_ = 0;
  std::atomic<std::size_t> next_{0};
  std::atomic<std::size_t> busy_{0};
  std::atomic<std::size_t> round_{0};
  std::vector<std::jthread> threads_;  // last, so that they end before the rest goes
};

}  // namespace orchard
