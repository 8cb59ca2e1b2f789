#include "explore/saved_state.hpp"

#include <fmt/core.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <filesystem>
#include <stdexcept>

#include "game/core.hpp"

namespace orchard::explore {

namespace {

constexpr const char* heading = "orchard exploration 1: ";

std::string path_of(const std::string& folder, const std::string& kind) {
  return (std::filesystem::path(folder) / ("explored." + kind)).string();
}

const std::string& made(const std::string& folder) {
  std::error_code error;  // writing into it says what is wrong
  std::filesystem::create_directories(folder, error);
  return folder;
}

Diagnostic fault_of(const std::string& path, const char* code, std::string message,
                    std::string remedy) {
  Diagnostic fault = plain_error(code, std::move(message), std::move(remedy));
  fault.place.file = path;
  return fault;
}

}  // namespace

std::string state_of(const LaneGame& game, std::span<const std::uint64_t> from) {
  return fmt::format("{} with {} fluents and {} clauses, from {:016x}", game.core().digest(),
                     game.ground().fluents().size(), game.ground().clauses().size(),
                     XXH3_64bits(from.data(), from.size_bytes()));
}

StateWriter::StateWriter(const std::string& folder, const std::string& kind,
                         const std::string& belongs_to)
    : StateWriter(path_of(made(folder), kind), belongs_to) {}

StateWriter::StateWriter(const std::string& file, const std::string& belongs_to)
    : path_(file),
      beside_(path_ + ".part"),
      file_(nullptr, std::fclose),
      sum_(XXH3_createState(), XXH3_freeState) {
  file_.reset(std::fopen(beside_.c_str(), "wb"));
  if (!file_) reason_ = std::strerror(errno);
  XXH3_64bits_reset(sum_.get());
  const std::string line = heading + belongs_to + "\n";
  write(line.data(), line.size());
}

StateWriter::~StateWriter() {
  file_.reset();
  std::error_code error;
  std::filesystem::remove(beside_, error);  // gone already if it was finished
}

void StateWriter::write(const void* bytes, std::size_t size) {
  if (!reason_.empty() || size == 0) return;
  XXH3_64bits_update(sum_.get(), bytes, size);
  if (std::fwrite(bytes, 1, size, file_.get()) != size) reason_ = std::strerror(errno);
}

void StateWriter::put_bytes(const std::string& name, const void* bytes, std::size_t size) {
  const std::uint64_t lengths[] = {name.size(), size};
  write(&lengths[0], sizeof(lengths[0]));
  write(name.data(), name.size());
  write(&lengths[1], sizeof(lengths[1]));
  write(bytes, size);
}

Diagnostics StateWriter::finish() {
  const std::uint64_t sum = XXH3_64bits_digest(sum_.get());
  write(&sum, sizeof(sum));
  if (reason_.empty() && (std::fflush(file_.get()) != 0 || ::fsync(::fileno(file_.get())) != 0)) {
    reason_ = std::strerror(errno);
  }
  std::error_code error;
  if (reason_.empty()) std::filesystem::rename(beside_, path_, error);
  if (error) reason_ = error.message();
  Diagnostics faults;
  if (!reason_.empty()) {
    faults.add(fault_of(path_, "cannot-write", "cannot write what was found: " + reason_,
                        "check the folder, its free space and that you may write there"));
  }
  return faults;
}

Result<std::unique_ptr<StateReader>> StateReader::open(const std::string& folder,
                                                       const std::string& kind,
                                                       const std::string& belongs_to) {
  return open(path_of(folder, kind), belongs_to);
}

Result<std::unique_ptr<StateReader>> StateReader::open(const std::string& path,
                                                       const std::string& belongs_to) {
  std::FILE* const file = std::fopen(path.c_str(), "rb");
  if (file == nullptr && errno == ENOENT) return std::unique_ptr<StateReader>();
  if (file == nullptr) {
    return fault_of(path, "cannot-read",
                    std::string("cannot read what was found before: ") + std::strerror(errno),
                    "check the folder and that you may read it");
  }
  std::unique_ptr<StateReader> reader(new StateReader(file));
  const auto damaged = [&] {
    return fault_of(path, "damaged-state", "what was found before is damaged",
                    "remove the file, or give another; it is found anew then");
  };
  const std::unique_ptr<XXH3_state_t, XXH_errorcode (*)(XXH3_state_t*)> sum(XXH3_createState(),
                                                                            XXH3_freeState);
  XXH3_64bits_reset(sum.get());
  std::error_code error;
  std::uint64_t left = std::filesystem::file_size(path, error);
  std::vector<char> buffer(1 << 20);
  const auto take = [&](void* bytes, std::size_t size) {
    if (left < sizeof(std::uint64_t) + size || std::fread(bytes, 1, size, file) != size)
      return false;
    left -= size;
    XXH3_64bits_update(sum.get(), bytes, size);
    return true;
  };
  std::string line;
  for (char letter = 0; letter != '\n';) {
    if (line.size() > buffer.size() || !take(&letter, 1)) return damaged();
    line += letter;
  }
  if (!line.starts_with(heading)) return damaged();
  if (line != heading + belongs_to + "\n") {
    return fault_of(
        path, "other-state",
        "what was found before belongs to other rules, sizes or claims, another start or "
        "another choice of --no-symmetry",
        "give another one, or remove the file");
  }
  while (left > sizeof(std::uint64_t)) {
    std::uint64_t length = 0;
    if (!take(&length, sizeof(length)) || length > buffer.size()) return damaged();
    std::string name(length, ' ');
    if (!take(name.data(), name.size()) || !take(&length, sizeof(length))) return damaged();
    reader->arrays_[name] = {std::ftell(file), length};
    while (length > 0) {
      const std::size_t now = std::min<std::uint64_t>(length, buffer.size());
      if (!take(buffer.data(), now)) return damaged();
      length -= now;
    }
  }
  std::uint64_t written = 0;
  if (std::fread(&written, 1, sizeof(written), file) != sizeof(written) ||
      written != XXH3_64bits_digest(sum.get())) {
    return damaged();
  }
  return reader;
}

void StateReader::read(long at, void* bytes, std::size_t size) {
  if (std::fseek(file_.get(), at, SEEK_SET) != 0 ||
      (size > 0 && std::fread(bytes, 1, size, file_.get()) != size)) {
    throw std::runtime_error("a file changed while it was read");
  }
}

}  // namespace orchard::explore
