#include "desk/background.hpp"

#include "base/interruption.hpp"

namespace orchard::desk {

Background::~Background() {
  for (auto& [key, task] : tasks_) task->thread.request_stop();
  // Their threads are joined as they go.
}

void Background::begin(const std::string& page, const std::string& what, double seconds,
                       Work work) {
  // Until the thread is there nobody else may look for it.
  const std::lock_guard lock(mutex_);
  if (tasks_.size() >= most_tasks) {
    // Pages that are closed say nothing: what they asked for and was done is let go.
    std::erase_if(tasks_, [](const auto& entry) {
      const std::lock_guard of_task(entry.second->mutex);
      return entry.second->done;
    });
  }
  auto task = std::make_shared<Task>();
  const std::shared_ptr<Task> before = std::exchange(tasks_[{page, what}], task);
  if (before) before->thread.request_stop();
  Task* const own = task.get();
  task->thread = std::jthread([own, before, seconds, work = std::move(work)](std::stop_token stop) {
    if (before && before->thread.joinable()) before->thread.join();  // one at a time
    Budget budget;
    budget.stop = stop;
    budget.seconds = seconds;
    budget.progress = [own](const Progress& progress) {
      const std::lock_guard of_task(own->mutex);
      own->progress = {{"done", progress.done}, {"seconds", progress.seconds}};
    };
    Json result;
    try {
      const Interruption interruption(budget);
      result = work(budget);
    } catch (const Interrupted& interrupted) {
      result = {{"ended", name_of(interrupted.ending)}};
    }
    const std::lock_guard of_task(own->mutex);
    own->result = std::move(result);
    own->done = true;
  });
}

Json Background::look(const std::string& page, const std::string& what) const {
  std::shared_ptr<Task> task;
  {
    const std::lock_guard lock(mutex_);
    const auto found = tasks_.find({page, what});
    if (found == tasks_.end()) return {{"state", "none"}};
    task = found->second;
  }
  const std::lock_guard lock(task->mutex);
  if (!task->done) return {{"state", "running"}, {"progress", task->progress}};
  return {{"state", "done"}, {"result", task->result}};
}

void Background::stop(const std::string& page, const std::string& what) {
  const std::lock_guard lock(mutex_);
  const auto found = tasks_.find({page, what});
  if (found != tasks_.end()) found->second->thread.request_stop();
}

}  // namespace orchard::desk
