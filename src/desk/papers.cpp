#include "desk/papers.hpp"

#include <fmt/core.h>
#include <xxhash.h>

#include <array>
#include <filesystem>
#include <fstream>
#include <sstream>

#include "base/file.hpp"

namespace orchard::desk {
namespace {

constexpr std::array kinds = {"rules", "cases", "claims", "drawing"};

std::optional<std::string> contents_of(const std::string& path) {
  std::ifstream file(path, std::ios::binary);
  if (!file) return std::nullopt;
  std::ostringstream text;
  text << file.rdbuf();
  return std::move(text).str();
}

std::string stamp_of(const std::optional<std::string>& text) {
  if (!text) return "none";
  const XXH128_hash_t hash = XXH3_128bits(text->data(), text->size());
  return fmt::format("{:016x}{:016x}", hash.high64, hash.low64);
}

}  // namespace

Papers::Papers(std::string path) : path_(std::move(path)) {}

std::optional<std::string> Papers::path_of(const std::string& kind) const {
  const std::filesystem::path rules(path_);
  if (kind == "rules") return path_;
  if (kind == "cases") return std::filesystem::path(rules).replace_extension(".cases").string();
  if (kind == "claims") return std::filesystem::path(rules).replace_extension(".claims").string();
  if (kind == "drawing") return std::filesystem::path(rules).replace_extension(".draw").string();
  return std::nullopt;
}

std::optional<Paper> Papers::read(const std::string& kind) const {
  const auto path = path_of(kind);
  if (!path) return std::nullopt;
  const auto text = contents_of(*path);
  return Paper{kind, *path, text.value_or(""), stamp_of(text)};
}

std::vector<Paper> Papers::all() const {
  std::vector<Paper> result;
  for (const char* const kind : kinds) result.push_back(*read(kind));
  return result;
}

Result<Paper> Papers::save(const std::string& kind, const std::string& text,
                           const std::string& stamp) {
  const std::lock_guard lock(mutex_);
  const auto there = read(kind);
  if (!there) return plain_error("no-paper", "there is no file of the kind " + kind);
  if (there->stamp != stamp) return *there;
  if (Diagnostics faults = write_whole_file(there->path, text); !faults.empty()) return faults;
  return *read(kind);
}

namespace {

// Beside the description, and out of sight.
std::string kept_path(const std::string& path) {
  const std::filesystem::path rules(path);
  return (rules.parent_path() / ("." + rules.filename().string() + ".unsaved")).string();
}

}  // namespace

std::string Papers::kept() const {
  return contents_of(kept_path(path_)).value_or("");
}

void Papers::keep(const std::string& text) {
  const std::lock_guard lock(mutex_);
  if (text.empty()) {
    std::error_code none;
    std::filesystem::remove(kept_path(path_), none);
  } else {
    // What cannot be kept is not lost yet: it stands in the page.
    (void)write_whole_file(kept_path(path_), text);
  }
}

}  // namespace orchard::desk
