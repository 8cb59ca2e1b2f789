// Threads that work on numbered jobs, whose results are taken in the order of the jobs.
//
// A job is given to the next free place; while all places are taken the oldest result has to be
// taken first. Without threads of its own the crew does each job when its result is taken. Where
// the system does not start as many threads as were asked for, those that there are do the work. An
// exception that a job throws (no memory left) is thrown where its result is taken; the worker goes
// on with the next job, and has to be fit for it.
#pragma once

#include <condition_variable>
#include <exception>
#include <functional>
#include <memory>
#include <mutex>
#include <system_error>
#include <thread>
#include <utility>
#include <vector>

#include "base/interruption.hpp"

namespace orchard {

// `Worker` is used by one thread at a time; `Job` and `Result` are moved in and out.
template <class Worker, class Job, class Result>
class OrderedCrew {
 public:
  using Make = std::function<std::unique_ptr<Worker>()>;
  using Work = std::function<void(Worker&, const Job&, Result&)>;

  OrderedCrew(unsigned threads, const Make& make, Work work) : work_(std::move(work)) {
    const std::size_t places = threads < 2 ? 1 : std::size_t{threads} * 4;
    places_.resize(places);
    if (threads >= 2) start(threads, make);
    if (threads_.empty()) own_ = make();
  }
  ~OrderedCrew() { stop(); }

  bool full() const { return given_ - taken_ == places_.size(); }
  bool idle() const { return given_ == taken_; }

  void give(Job job) {
    Place& place = places_[given_ % places_.size()];
    {
      const std::lock_guard lock(mutex_);
      place.lender = Interruption::current();
      place.job = std::move(job);
      place.done = false;
      ++given_;
    }
    changed_.notify_all();
  }

  // The result of the oldest job; stays good until the next `give`.
  Result& take() {
    Place& place = places_[taken_ % places_.size()];
    if (own_) {
      work_(*own_, place.job, place.result);
    } else {
      std::unique_lock lock(mutex_);
      finished_.wait(lock, [&] { return place.done; });
    }
    ++taken_;
    if (place.fault) std::rethrow_exception(std::exchange(place.fault, nullptr));
    return place.result;
  }

 private:
  struct Place {
    Job job;
    Result result;
    const Interruption* lender = nullptr;  // of whoever gave it; outlives the job
    std::exception_ptr fault;              // what the job threw
    bool done = false;
  };

  void start(unsigned threads, const Make& make) {
    threads_.reserve(threads);
    try {
      for (unsigned t = 0; t < threads; ++t) {
        threads_.emplace_back([this, worker = std::shared_ptr<Worker>(make())](
                                  const std::stop_token& over) { serve(*worker, over); });
      }
    } catch (const std::system_error&) {  // as many as could be started
    } catch (...) {
      stop();
      throw;
    }
  }
  void stop() {
    {
      // Under the mutex: a thread that is about to wait sees it, or is waked.
      const std::lock_guard lock(mutex_);
      for (std::jthread& thread : threads_) thread.request_stop();
    }
    changed_.notify_all();
  }

  void serve(Worker& worker, const std::stop_token& over) {
    while (true) {
      std::size_t mine = 0;
      {
        std::unique_lock lock(mutex_);
        changed_.wait(lock, [&] { return over.stop_requested() || begun_ < given_; });
        if (over.stop_requested()) return;
        mine = begun_++ % places_.size();
      }
      try {
        const Interruption::Borrowed borrowed(places_[mine].lender);
        work_(worker, places_[mine].job, places_[mine].result);
      } catch (...) {
        places_[mine].fault = std::current_exception();
      }
      {
        const std::lock_guard lock(mutex_);
        places_[mine].done = true;
      }
      finished_.notify_all();
    }
  }

  Work work_;
  std::unique_ptr<Worker> own_;
  std::vector<Place> places_;
  std::size_t given_ = 0;  // jobs, from the beginning; written by the owner under the mutex
  std::size_t taken_ = 0;  // of the owner alone
  std::size_t begun_ = 0;
  std::mutex mutex_;
  std::condition_variable changed_;
  std::condition_variable finished_;
  std::vector<std::jthread> threads_;  // last, so that they end before the rest goes
};

}  // namespace orchard
