// Descriptions as they were in a version-control repository: `compare --since REVISION`.
#pragma once

#include <string>

#include "orchard/result.hpp"

namespace orchard::cli {

// A folder that goes with the object.
class TemporaryCopy {
 public:
  TemporaryCopy();
  ~TemporaryCopy();
  TemporaryCopy(TemporaryCopy&& other) noexcept : folder_(std::move(other.folder_)) {
    other.folder_.clear();
  }
  TemporaryCopy(const TemporaryCopy&) = delete;
  const std::string& folder() const { return folder_; }

 private:
  std::string folder_;
};

struct OldFile {
  TemporaryCopy copy;
  std::string path;  // of the file as it was, with its drawing rules and what it includes beside it
};

// The file as it was in a revision ("HEAD", "HEAD~3", a tag, the beginning of a number) of the
// repository that it lies in. Fails with `no-revision` if there is no repository, no such revision,
// or no such file in it.
Result<OldFile> file_at(const std::string& path, const std::string& revision);

}  // namespace orchard::cli
