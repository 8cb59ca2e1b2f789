#include "cli/record_files.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <filesystem>
#include <fstream>

#include "base/interruption.hpp"
#include "orchard/results_store.hpp"

namespace orchard::cli {
namespace {

namespace fs = std::filesystem;

// The files of a folder in the order of their names: those of a series by number.
std::vector<std::string> files_of(const std::string& name, Diagnostics& unreadable) {
  std::error_code error;
  if (!fs::is_directory(name, error)) return {name};
  std::vector<std::string> files;
  for (const auto& entry : fs::directory_iterator(name, error)) {
    if (entry.path().extension() == ".jsonl") files.push_back(entry.path().string());
  }
  std::ranges::sort(files, [](const std::string& a, const std::string& b) {
    return a.size() != b.size() ? a.size() < b.size() : a < b;
  });
  if (files.empty()) {
    unreadable.add(plain_error("cannot-read", fmt::format("there are no records in {}", name),
                               "records are files *.jsonl"));
  }
  return files;
}

bool is_store(const std::string& file) {
  constexpr std::string_view beginning = "SQLite format 3";
  std::ifstream stream(file, std::ios::binary);
  std::string read(beginning.size(), '\0');
  stream.read(read.data(), static_cast<std::streamsize>(read.size()));
  return stream && read == beginning;
}

// Those that series kept with --moves.
Result<std::vector<MatchRecord>> records_of_store(const std::string& file) {
  const auto store = ResultsStore::open(file);
  if (!store) return store.diagnostics();
  auto records = store->records();
  if (records && records->empty()) {
    return plain_error("cannot-read", fmt::format("{} keeps results, and no whole matches", file),
                       "play the series with --moves");
  }
  return records;
}

// Games that several records share.
class Rules {
 public:
  explicit Rules(const Call& call) : call_(call) {}

  // Puts the rules of a record where they belong.
  void find(FiledRecord& filed) {
    const MatchRecord& record = filed.record;
    auto options = load_options(call_);
    if (!options) {
      filed.faults = options.diagnostics();
      return;
    }
    for (const auto& [name, value] : record.sizes) options->sizes.emplace(name, value);
    std::string key;
    if (const auto given = call_.text("game")) {
      filed.rules_file = *given;
    } else if (record.description.empty()) {
      filed.rules_file = file_beside(filed);
      if (filed.rules_file.empty()) return;
    }
    key = filed.rules_file.empty() ? record.description : filed.rules_file;
    for (const auto& [name, value] : options->sizes) key += fmt::format(" {}={}", name, value);
    auto [known, is_new] = games_.try_emplace(key);
    if (is_new) {
      auto game = filed.rules_file.empty()
                      ? Game::from_text(record.description, record.game, *options)
                      : Game::load(filed.rules_file, *options);
      if (game) {
        known->second.game = std::make_shared<const Game>(std::move(game).value());
      } else {
        known->second.faults = game.diagnostics();
      }
    }
    filed.game = known->second.game;
    filed.faults = known->second.faults;
  }

 private:
  struct Known {
    std::shared_ptr<const Game> game;
    Diagnostics faults;
  };

  static std::string file_beside(const FiledRecord& filed) {
    const std::string name = fs::path(filed.record.game).filename().string();
    if (name.empty()) return {};
    std::error_code error;
    for (const fs::path& folder : {fs::path(filed.file).parent_path(), fs::path()}) {
      const fs::path file = folder / name;
      if (fs::is_regular_file(file, error)) return file.string();
    }
    return {};
  }

  const Call& call_;
  std::map<std::string, Known> games_;
};

}  // namespace

std::vector<FiledRecord> filed_records(const Call& call, const std::vector<std::string>& names,
                                       Diagnostics& unreadable) {
  std::vector<FiledRecord> result;
  Rules rules(call);
  for (const std::string& name : names) {
    for (const std::string& file : files_of(name, unreadable)) {
      end_if_interrupted();
      auto records =
          is_store(file) ? records_of_store(file) : read_records(file, {.cut_line = true});
      if (!records) {
        unreadable.append(records.diagnostics());
        continue;
      }
      for (MatchRecord& record : *records) {
        FiledRecord& filed = result.emplace_back();
        filed.file = file;
        filed.record = std::move(record);
        rules.find(filed);
        if (!filed.game) continue;
        filed.faults.append(verify_record(*filed.game, filed.record, file));
        if (auto match = replay(*filed.game, filed.record)) filed.match = std::move(match).value();
      }
    }
  }
  return result;
}

}  // namespace orchard::cli
