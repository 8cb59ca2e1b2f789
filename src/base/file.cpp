#include "base/file.hpp"

#include <fmt/core.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <filesystem>

namespace orchard {

WholeFile::WholeFile(const std::string& path)
    : path_(path),
      beside_(fmt::format("{}.{}.part", path, ::getpid())),
      file_(std::fopen(beside_.c_str(), "wb"), std::fclose) {
  if (!file_) reason_ = std::strerror(errno);
}

WholeFile::~WholeFile() {
  file_.reset();
  std::error_code error;
  std::filesystem::remove(beside_, error);  // gone already if it was finished
}

void WholeFile::write(const void* bytes, std::size_t size) {
  if (!reason_.empty() || size == 0) return;
  if (std::fwrite(bytes, 1, size, file_.get()) != size) reason_ = std::strerror(errno);
}

Diagnostics WholeFile::finish() {
  if (reason_.empty() && (std::fflush(file_.get()) != 0 || ::fsync(::fileno(file_.get())) != 0)) {
    reason_ = std::strerror(errno);
  }
  std::error_code error;
  if (reason_.empty()) std::filesystem::rename(beside_, path_, error);
  if (error) reason_ = error.message();
  Diagnostics faults;
  if (!reason_.empty()) {
    Diagnostic fault = plain_error("cannot-write", "cannot write the file: " + reason_,
                                   "check the folder, its free space and that you may write there");
    fault.place.file = path_;
    faults.add(std::move(fault));
  }
  return faults;
}

Diagnostics write_whole_file(const std::string& path, std::string_view contents) {
  WholeFile file(path);
  file.write(contents.data(), contents.size());
  return file.finish();
}

}  // namespace orchard
