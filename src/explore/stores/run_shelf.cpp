#include "explore/stores/run_shelf.hpp"

#include <sys/mman.h>
#include <unistd.h>

#include <algorithm>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <utility>

namespace orchard::explore {

namespace {

// A file without a name in a folder; negative if none can be made.
int nameless_file(const std::string& folder) {
  std::string path = folder + "/keys.XXXXXX";
  const int file = ::mkstemp(path.data());
  if (file >= 0) ::unlink(path.c_str());
  return file;
}

bool write_all(int file, const void* bytes, std::size_t size) {
  const char* at = static_cast<const char*>(bytes);
  while (size > 0) {
    const ssize_t written = ::write(file, at, size);
    if (written < 0 && errno == EINTR) continue;
    if (written <= 0) return false;
    at += written;
    size -= static_cast<std::size_t>(written);
  }
  return true;
}

}  // namespace

RunShelf::RunShelf(std::optional<Files> files) : files_(std::move(files)) {
  std::error_code ignored;  // whoever writes there will find out
  if (files_) std::filesystem::create_directories(files_->folder, ignored);
}

void RunShelf::Release::operator()(std::uint64_t* words) const {
  if (in_file) {
    ::munmap(words, bytes);
    shelf->in_files_ -= bytes;
  } else {
    delete[] words;
    shelf->in_memory_ -= bytes;
  }
}

void RunShelf::Kept::forget_pages() const {
  const Release& of = words_.get_deleter();
  if (of.in_file) ::madvise(words_.get(), of.bytes, MADV_DONTNEED);
}

// Null, and a problem, if it cannot be written.
std::uint64_t* RunShelf::in_file(std::span<const std::uint64_t> words) {
  const int file = nameless_file(files_->folder);
  const bool written = file >= 0 && write_all(file, words.data(), words.size_bytes());
  void* const memory =
      written ? ::mmap(nullptr, words.size_bytes(), PROT_READ, MAP_SHARED, file, 0) : MAP_FAILED;
  if (memory == MAP_FAILED) {
    const std::scoped_lock lock(mutex_);
    if (!problem_) problem_ = std::strerror(errno);
  }
  if (file >= 0) ::close(file);
  return memory == MAP_FAILED ? nullptr : static_cast<std::uint64_t*>(memory);
}

RunShelf::Kept RunShelf::keep(std::span<const std::uint64_t> words) {
  Kept result;
  if (words.empty()) return result;
  const std::size_t bytes = words.size_bytes();
  std::uint64_t* place = nullptr;
  const bool to_file = files_ && in_memory_ + bytes > files_->bytes_in_memory;
  if (to_file) place = in_file(words);
  const bool in_memory = place == nullptr;
  if (in_memory) {
    place = new std::uint64_t[words.size()];
    std::ranges::copy(words, place);
  }
  (in_memory ? in_memory_ : in_files_) += bytes;
  result.words_ = {place, Release(this, bytes, !in_memory)};
  return result;
}

std::optional<std::string> RunShelf::problem() const {
  const std::scoped_lock lock(mutex_);
  return problem_;
}

}  // namespace orchard::explore
