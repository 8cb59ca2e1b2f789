#include <fmt/core.h>

#include <filesystem>

#include "base/file.hpp"
#include "cli/call.hpp"
#include "cli/json.hpp"
#include "cli/output.hpp"
#include "orchard/skeleton.hpp"

namespace orchard::cli {

// The name may have folders before it, and .gdl behind it.
Status new_game(const Call& call) {
  std::filesystem::path path(call.game);
  if (path.extension() == ".gdl") path.replace_extension();
  const std::string name = path.filename().string();
  const auto is_letter = [](unsigned char c) {
    return std::isalnum(c) != 0 || c == '_' || c == '-';
  };
  if (name.empty() || !std::ranges::all_of(name, is_letter)) {
    return report(call, plain_error("wrong-call",
                                    fmt::format("\"{}\" cannot be the name of a game", call.game),
                                    "use letters, digits, _ and -: orchard new pots"));
  }
  const std::vector<SkeletonFile> files = skeleton(name);
  const auto place_of = [&](const SkeletonFile& file) {
    return (path.parent_path() / file.name).string();
  };
  for (const SkeletonFile& file : files) {
    std::error_code ignored;  // writing says what is wrong
    if (!std::filesystem::exists(place_of(file), ignored)) continue;
    return report(call, plain_error("file-exists", fmt::format("{} exists", place_of(file)),
                                    "give another name; nothing was written"));
  }
  Json written = Json::array();
  for (const SkeletonFile& file : files) {
    const Diagnostics faults = write_whole_file(place_of(file), file.text);
    if (!faults.empty()) return report(call, faults);
    written.push_back(place_of(file));
  }
  if (call.json()) {
    print_json(Json{{"files", written}});
    return Status::done;
  }
  for (const auto& file : written) print("{}\n", file.get<std::string>());
  if (!call.flag("quiet")) {
    print("\nNext: orchard show {0}, then orchard play {0}, then change the rules.\n",
          place_of(files.front()));
  }
  return Status::done;
}

}  // namespace orchard::cli
