// Where coded keys are kept: in memory or, once that came to be too much, in files.
//
// Files have no name while they are kept, so that nothing is left of them however a program ends,
// and are read as memory is. Several threads may use a shelf at once; it must outlive what it
// keeps.
#pragma once

#include <atomic>
#include <cstdint>
#include <memory>
#include <mutex>
#include <optional>
#include <span>
#include <string>

namespace orchard::explore {

class RunShelf {
 private:
  struct Release {
    Release() : Release(nullptr, 0, false) {}
    Release(RunShelf* of, std::size_t size, bool file) : shelf(of), bytes(size), in_file(file) {}
    void operator()(std::uint64_t* words) const;
    RunShelf* shelf;
    std::size_t bytes;
    bool in_file;
  };

 public:
  // With a folder, which is made if it is not there, what is beyond so many bytes goes into its
  // files.
  struct Files {
    std::string folder;
    std::uint64_t bytes_in_memory = 0;
  };
  explicit RunShelf(std::optional<Files> files);
  RunShelf(const RunShelf&) = delete;

  // Words that are kept until it goes.
  class Kept {
   public:
    Kept() = default;
    std::span<const std::uint64_t> words() const {
      return {words_.get(), words_.get_deleter().bytes / sizeof(std::uint64_t)};
    }
    // Of a file: those that were read take no memory any more.
    void forget_pages() const;

   private:
    friend class RunShelf;
    std::unique_ptr<std::uint64_t[], Release> words_;
  };
  // Copies them. What cannot be written into a file stays in memory, and `problem` says why.
  Kept keep(std::span<const std::uint64_t> words);

  std::uint64_t bytes_in_memory() const { return in_memory_; }
  std::uint64_t bytes_in_files() const { return in_files_; }
  // Why a file could not be written, if one could not.
  std::optional<std::string> problem() const;

 private:
  std::uint64_t* in_file(std::span<const std::uint64_t> words);

  const std::optional<Files> files_;
  std::atomic<std::uint64_t> in_memory_{0};
  std::atomic<std::uint64_t> in_files_{0};
  mutable std::mutex mutex_;
  std::optional<std::string> problem_;
};

}  // namespace orchard::explore
