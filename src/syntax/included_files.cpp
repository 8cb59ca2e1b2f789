#include "syntax/included_files.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "base/interruption.hpp"

namespace orchard::syntax {
namespace {

namespace fs = std::filesystem;

Diagnostic refused(std::string why, std::string remedy) {
  return plain_error("cannot-include", std::move(why), std::move(remedy));
}

}  // namespace

void IncludedFiles::enter(const std::string& name) {
  std::error_code ignored;
  // Absolute first: a relative path to no file (a text from memory) would stay relative.
  open_.push_back({name, fs::weakly_canonical(fs::absolute(name, ignored), ignored)});
}

Result<Source> IncludedFiles::read(std::string_view text, const Limits& limits) {
  end_if_interrupted();
  std::error_code ignored;
  const fs::path written{std::string(text)};
  const fs::path folder = open_.back().path.parent_path();
  const fs::path file = fs::weakly_canonical(folder / written, ignored);
  const auto inside = std::mismatch(folder.begin(), folder.end(), file.begin(), file.end());
  if (written.is_absolute() || inside.first != folder.end()) {
    return refused("the file is not in the folder of this one or below", "move it there");
  }
  if (std::ranges::find(open_, file, &Open::path) != open_.end() || open_.size() >= deepest) {
    return refused("the file includes itself, directly or through others", "remove this one");
  }
  if (fs::exists(file, ignored) && !fs::is_regular_file(file, ignored) &&
      !fs::is_directory(file, ignored)) {
    return refused("this is no file, but a pipe or a device", "name a text file");
  }
  if (++count_ > most_files) {
    return refused(fmt::format("more than {} files are included, one by another", most_files),
                   "include each file once");
  }
  const fs::path shown = fs::path(open_.back().name).parent_path() / written;
  auto source = Source::from_file(shown.string(), limits);
  if (source) return source;
  const Diagnostic& why = source.diagnostics().items().front();
  return refused(why.message, why.remedy);
}

}  // namespace orchard::syntax
