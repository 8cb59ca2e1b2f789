#include "base/file.hpp"

#include <fcntl.h>
#include <fmt/core.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>
#include <xxhash.h>

#include <atomic>
#include <cerrno>
#include <chrono>
#include <cstring>
#include <filesystem>
#include <thread>
#include <vector>

#include "base/interruption.hpp"

namespace orchard {
namespace {

Diagnostics cannot_write(const std::string& path, const std::string& reason) {
  Diagnostics faults;
  Diagnostic fault = plain_error("cannot-write", "cannot write the file: " + reason,
                                 "check the folder, its free space and that you may write there");
  fault.place.file = path;
  faults.add(std::move(fault));
  return faults;
}

// Where symbolic links lead; what the last one leads to need not be there.
std::string target_of(const std::string& path) {
  constexpr int most_links = 40;
  std::filesystem::path target = path;
  for (int link = 0; link < most_links; ++link) {
    std::error_code error;
    const std::filesystem::path next = std::filesystem::read_symlink(target, error);
    if (error) break;
    target = target.parent_path() / next;  // `next` alone if it is absolute
  }
  return target.string();
}

std::string folder_of(const std::string& path) {
  const std::string folder = std::filesystem::path(path).parent_path().string();
  return folder.empty() ? "." : folder;
}

}  // namespace

WholeFile::WholeFile(const std::string& path)
    : path_(path), target_(path), file_(nullptr, std::fclose) {
  struct stat there {};
  if (::stat(path.c_str(), &there) == 0 && !S_ISREG(there.st_mode)) {
    way_ = Way::through;
    if (S_ISDIR(there.st_mode)) {
      reason_ = std::strerror(EISDIR);
    } else {
      file_.reset(std::fopen(path.c_str(), "wb"));
    }
  } else {
    target_ = target_of(path);
    if (there.st_nlink > 0) {
      mode_ = there.st_mode & 07777;
      if (there.st_nlink > 1) way_ = Way::copy;
      if (::access(target_.c_str(), W_OK) != 0) {
        note_error();
        return;
      }
    }
    open_beside();
  }
  if (!file_ && reason_.empty()) note_error();
}

// Without a name at first where the file system knows how to, so that nothing is left of it when
// the process is killed.
void WholeFile::open_beside() {
  int file = ::open(folder_of(target_).c_str(), O_TMPFILE | O_RDWR | O_CLOEXEC, mode_);
  if (file < 0 && (errno == EOPNOTSUPP || errno == EISDIR || errno == ENOENT)) {
    static std::atomic<unsigned> number = 0;
    beside_ = fmt::format("{}.{}-{}.part", target_, ::getpid(), ++number);
    file = ::open(beside_.c_str(), O_CREAT | O_EXCL | O_RDWR | O_CLOEXEC, mode_);
  }
  if (file < 0) return note_error();
  struct stat there {};  // the mode of what is replaced is kept whatever the mask of the process
  if (::stat(target_.c_str(), &there) == 0) (void)::fchmod(file, mode_);
  file_.reset(::fdopen(file, "w+b"));
}

WholeFile::~WholeFile() {
  file_.reset();
  if (!beside_.empty()) (void)::unlink(beside_.c_str());  // gone already if it was finished
}

void WholeFile::note_error() {
  reason_ = std::strerror(errno);
}

void WholeFile::write(const void* bytes, std::size_t size) {
  if (!reason_.empty() || size == 0) return;
  if (std::fwrite(bytes, 1, size, file_.get()) != size) note_error();
}

Diagnostics WholeFile::finish() {
  const auto failed = [&] { return !reason_.empty(); };
  if (!failed() && std::fflush(file_.get()) != 0) note_error();
  if (!failed() && way_ == Way::copy) copy_over();
  // A pipe or a terminal has nothing to be synchronised.
  if (!failed() && ::fsync(::fileno(file_.get())) != 0 && errno != EINVAL && errno != EROFS) {
    note_error();
  }
  if (!failed() && way_ == Way::replace) put_in_place();
  return failed() ? cannot_write(path_, reason_) : Diagnostics{};
}

void WholeFile::put_in_place() {
  if (beside_.empty()) {
    std::string name = fmt::format("{}.{}.part", target_, ::getpid());
    const std::string own = fmt::format("/proc/self/fd/{}", ::fileno(file_.get()));
    (void)::unlink(name.c_str());  // of a process of the same number that was killed
    if (::linkat(AT_FDCWD, own.c_str(), AT_FDCWD, name.c_str(), AT_SYMLINK_FOLLOW) != 0) {
      return note_error();
    }
    beside_ = std::move(name);
  }
  if (::rename(beside_.c_str(), target_.c_str()) != 0) return note_error();
  beside_.clear();
}

void WholeFile::copy_over() {
  const std::unique_ptr<std::FILE, int (*)(std::FILE*)> to(std::fopen(target_.c_str(), "r+b"),
                                                           std::fclose);
  if (!to) return note_error();
  std::rewind(file_.get());
  std::vector<char> buffer(1 << 16);
  long size = 0;
  while (const std::size_t read = std::fread(buffer.data(), 1, buffer.size(), file_.get())) {
    if (std::fwrite(buffer.data(), 1, read, to.get()) != read) return note_error();
    size += static_cast<long>(read);
  }
  const bool done = std::ferror(file_.get()) == 0 && std::fflush(to.get()) == 0 &&
                    ::ftruncate(::fileno(to.get()), size) == 0 && ::fsync(::fileno(to.get())) == 0;
  if (!done) note_error();
}

Diagnostics check_writable(const std::string& path) {
  struct stat there {};
  const auto fails_with = [&](int error) { return cannot_write(path, std::strerror(error)); };
  if (path.empty()) return fails_with(ENOENT);
  if (::stat(path.c_str(), &there) == 0) {
    if (S_ISDIR(there.st_mode)) return fails_with(EISDIR);
    if (::access(path.c_str(), W_OK) != 0) return fails_with(errno);
    if (!S_ISREG(there.st_mode)) return {};
  } else if (errno != ENOENT) {
    return fails_with(errno);
  }
  const std::string folder = folder_of(target_of(path));
  if (::stat(folder.c_str(), &there) != 0) return fails_with(errno);
  if (!S_ISDIR(there.st_mode)) return fails_with(ENOTDIR);
  if (::access(folder.c_str(), W_OK | X_OK) != 0) return fails_with(errno);
  return {};
}

Result<FileLock> FileLock::take(const std::string& path, std::string remedy) {
  const std::string beside = target_of(path) + ".lock";
  constexpr int most_tries = 40;
  constexpr auto between = std::chrono::milliseconds(50);
  for (int tries = 1;; ++tries) {
    const int file = ::open(beside.c_str(), O_CREAT | O_RDWR | O_CLOEXEC, 0666);
    if (file < 0) return cannot_write(beside, std::strerror(errno));
    if (::flock(file, LOCK_EX | LOCK_NB) != 0) {
      const bool taken = errno == EWOULDBLOCK;
      const std::string reason = std::strerror(errno);
      ::close(file);
      if (!taken) return cannot_write(beside, reason);
      if (tries < most_tries) {
        std::this_thread::sleep_for(between);
        end_if_interrupted();
        continue;
      }
      Diagnostic fault =
          plain_error("in-use", "another process is working on this", std::move(remedy));
      fault.place.file = path;
      return fault;
    }
    // Whoever held it before may have removed the file since it was opened.
    struct stat own {};
    struct stat there {};
    if (::fstat(file, &own) == 0 && ::stat(beside.c_str(), &there) == 0 &&
        own.st_ino == there.st_ino && own.st_dev == there.st_dev) {
      return FileLock(beside, file);
    }
    ::close(file);
  }
}

FileLock::FileLock(FileLock&& other) noexcept
    : path_(std::move(other.path_)), file_(std::exchange(other.file_, -1)) {}

FileLock::~FileLock() {
  if (file_ < 0) return;
  (void)::unlink(path_.c_str());  // while it is still held
  ::close(file_);
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
