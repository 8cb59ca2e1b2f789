// Long work that a page asks for and looks after: one of a kind for each page. Work that is asked
// for anew ends the one before it. Any thread may call.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <string>
#include <thread>

#include "base/json.hpp"
#include "orchard/budget.hpp"

namespace orchard::desk {

class Background {
 public:
  // What is done: with a budget whose stop token and progress are set. Gives the document to show.
  using Work = std::function<Json(Budget budget)>;

  ~Background();
  // Begins work for a page; `what` tells kinds apart.
  void begin(const std::string& page, const std::string& what, double seconds, Work work);
  // {"state": "none" | "running" | "done", "progress": …, "result": …}
  Json look(const std::string& page, const std::string& what) const;
  void stop(const std::string& page, const std::string& what);

 private:
  struct Task {
    std::mutex mutex;
    Json progress = Json::object();
    Json result;
    bool done = false;
    std::jthread thread;  // last: what it uses outlives it
  };
  static constexpr std::size_t most_tasks = 64;
  mutable std::mutex mutex_;
  std::map<std::pair<std::string, std::string>, std::shared_ptr<Task>> tasks_;
};

}  // namespace orchard::desk
