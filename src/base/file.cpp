#include "base/file.hpp"

#include <fmt/core.h>
#include <unistd.h>
#include <xxhash.h>

#include <cerrno>
#include <cstring>
#include <filesystem>
#include <vector>

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

std::string digest_of_file(const std::string& path) {
  const std::unique_ptr<std::FILE, int (*)(std::FILE*)> file(std::fopen(path.c_str(), "rb"),
                                                             std::fclose);
  if (!file) return {};
  const std::unique_ptr<XXH3_state_t, XXH_errorcode (*)(XXH3_state_t*)> sum(XXH3_createState(),
                                                                            XXH3_freeState);
  XXH3_128bits_reset(sum.get());
  std::vector<char> buffer(1 << 16);
  while (const std::size_t read = std::fread(buffer.data(), 1, buffer.size(), file.get())) {
    XXH3_128bits_update(sum.get(), buffer.data(), read);
  }
  if (std::ferror(file.get()) != 0) return {};
  const XXH128_hash_t hash = XXH3_128bits_digest(sum.get());
  return fmt::format("{:016x}{:016x}", hash.high64, hash.low64);
}

Diagnostics write_whole_file(const std::string& path, std::string_view contents) {
  WholeFile file(path);
  file.write(contents.data(), contents.size());
  return file.finish();
}

}  // namespace orchard
