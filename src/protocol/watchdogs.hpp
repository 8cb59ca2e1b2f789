// Cuts connections when their time is over: one thread for any number of them.
//
// Any thread may set and lift a watch. A client is touched only while it is watched.
#pragma once

#include <chrono>
#include <condition_variable>
#include <functional>
#include <map>
#include <mutex>
#include <thread>

namespace orchard::protocol {

class Watchdogs {
 public:
  using Clock = std::chrono::steady_clock;

  Watchdogs();
  ~Watchdogs();
  Watchdogs(const Watchdogs&) = delete;

  // Calls `cut` at that time unless the watch was destroyed before.
  class Watch {
   public:
    Watch(Watchdogs& dogs, Clock::time_point until, std::function<void()> cut);
    ~Watch();
    Watch(const Watch&) = delete;

   private:
    Watchdogs& dogs_;
    std::multimap<Clock::time_point, std::function<void()>>::iterator entry_;
  };

 private:
  void run();

  std::mutex mutex_;  // guards what follows
  std::condition_variable changed_;
  std::multimap<Clock::time_point, std::function<void()>> watches_;  // empty ones were called
  bool over_ = false;

  std::thread thread_;  // last, so that the rest is there when it begins
};

}  // namespace orchard::protocol
