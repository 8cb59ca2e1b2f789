#include "cli/watch.hpp"

#include <fmt/core.h>

#include <chrono>
#include <filesystem>
#include <set>
#include <thread>

#include "base/interruption.hpp"
#include "cli/output.hpp"

namespace orchard::cli {
namespace {

namespace fs = std::filesystem;

struct Stamp {
  fs::file_time_type time{};
  std::uintmax_t size = 0;
  friend bool operator==(const Stamp&, const Stamp&) = default;
};
using Stamps = std::map<std::string, Stamp>;

bool is_read(const fs::path& file) {
  static const std::set<std::string> kinds = {".gdl", ".gdli", ".cases", ".claims", ".draw"};
  return kinds.contains(file.extension().string());
}

Stamps stamps_of(const Call& call) {
  std::set<fs::path> folders{fs::path(call.game).parent_path()};
  for (const char* option : {"file", "claims"}) {
    const auto given = call.values.find(option);
    if (given != call.values.end()) folders.insert(fs::path(given->second.back()).parent_path());
  }
  Stamps stamps;
  for (const fs::path& folder : folders) {
    std::error_code ignored;
    for (const auto& entry :
         fs::directory_iterator(folder.empty() ? fs::path(".") : folder, ignored)) {
      if (!is_read(entry.path())) continue;
      const auto time = entry.last_write_time(ignored);
      const auto size = entry.file_size(ignored);
      stamps[entry.path().filename().string()] = {time, size};
    }
  }
  return stamps;
}

std::string changed_files(const Stamps& before, const Stamps& after) {
  std::string names;
  const auto add = [&](const std::string& name) { names += (names.empty() ? "" : ", ") + name; };
  for (const auto& [name, stamp] : after) {
    const auto known = before.find(name);
    if (known == before.end() || known->second != stamp) add(name);
  }
  for (const auto& [name, stamp] : before) {
    if (!after.contains(name)) add(name);
  }
  return names;
}

void say_news(const RunAnswers& before, const RunAnswers& after) {
  std::string news;
  for (const auto& [asked, answer] : after) {
    const auto known = before.find(asked);
    if (known == before.end()) {
      news += fmt::format("   new: {} {}\n", asked, answer);
    } else if (known->second != answer) {
      news += fmt::format("   {} {} now; before it {}\n", asked, answer, known->second);
    }
  }
  for (const auto& [asked, answer] : before) {
    if (!after.contains(asked)) news += fmt::format("   gone: {}\n", asked);
  }
  print("since the run before:\n{}", news.empty() ? "   nothing is answered otherwise\n" : news);
}

}  // namespace

Status watch_files(const Call& call, const std::function<Status(RunAnswers& answers)>& run) {
  constexpr auto pause = std::chrono::milliseconds(50);
  // The seconds of the call are for each run.
  const auto run_once = [&](RunAnswers& answers) {
    Budget patience;
    patience.seconds = call.seconds("seconds");
    const Interruption interruption(patience);
    try {
      return run(answers);
    } catch (const Interrupted& interrupted) {
      return report(call, interrupted);
    }
  };
  Stamps stamps = stamps_of(call);
  RunAnswers answers;
  Status status = run_once(answers);
  const auto say = [&] {
    if (!call.flag("quiet")) print("watching for changes; an interrupt ends it\n");
    (void)output_fault();  // writes what is waiting
  };
  say();
  while (!call.stop.stop_requested()) {
    std::this_thread::sleep_for(pause);
    Stamps now = stamps_of(call);
    if (now == stamps) continue;
    std::this_thread::sleep_for(pause);  // until a program has written all of it
    now = stamps_of(call);
    print("\n---- {} ----\n", changed_files(stamps, now));
    stamps = std::move(now);
    RunAnswers next;
    status = run_once(next);
    if (call.stop.stop_requested()) break;
    say_news(answers, next);
    answers = std::move(next);
    say();
  }
  return status;
}

}  // namespace orchard::cli
