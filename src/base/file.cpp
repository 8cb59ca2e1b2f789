#include "base/file.hpp"

#include <fmt/core.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <filesystem>
#include <fstream>

namespace orchard {

Diagnostics write_whole_file(const std::string& path, std::string_view contents) {
  const std::string beside = fmt::format("{}.{}.part", path, ::getpid());
  std::string reason;
  {
    std::ofstream stream(beside, std::ios::binary | std::ios::trunc);
    stream.write(contents.data(), static_cast<std::streamsize>(contents.size()));
    stream.close();
    if (!stream) reason = std::strerror(errno);
  }
  std::error_code error;
  if (reason.empty()) {
    std::filesystem::rename(beside, path, error);
    if (error) reason = error.message();
  }
  Diagnostics diagnostics;
  if (!reason.empty()) {
    std::filesystem::remove(beside, error);
    Diagnostic diagnostic = plain_error("cannot-write", "cannot write the file: " + reason,
                                        "check the folder and that you may write there");
    diagnostic.place.file = path;
    diagnostics.add(std::move(diagnostic));
  }
  return diagnostics;
}

}  // namespace orchard
