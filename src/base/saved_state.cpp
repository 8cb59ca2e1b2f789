#include "base/saved_state.hpp"

#include <cerrno>
#include <cstring>
#include <filesystem>
#include <stdexcept>

namespace orchard {

namespace {

constexpr const char* heading = "orchard exploration 2: ";

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

StateWriter::StateWriter(const std::string& folder, const std::string& kind,
                         const std::string& belongs_to)
    : StateWriter(path_of(made(folder), kind), belongs_to) {}

StateWriter::StateWriter(const std::string& file, const std::string& belongs_to)
    : file_(file), sum_(XXH3_createState(), XXH3_freeState) {
  XXH3_64bits_reset(sum_.get());
  const std::string line = heading + belongs_to + "\n";
  write(line.data(), line.size());
}

void StateWriter::write(const void* bytes, std::size_t size) {
  XXH3_64bits_update(sum_.get(), bytes, size);
  file_.write(bytes, size);
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
  return file_.finish();
}

bool StateReader::is_there(const std::string& folder, const std::string& kind) {
  std::error_code error;
  return std::filesystem::exists(path_of(folder, kind), error);
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
                    std::string("cannot read the saved state: ") + std::strerror(errno),
                    "check the folder and that you may read it");
  }
  std::unique_ptr<StateReader> reader(new StateReader(file));
  const auto damaged = [&] {
    return fault_of(path, "damaged-state", "the saved state is damaged",
                    "remove the file to start afresh, or name another");
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
    return fault_of(path, "other-state",
                    "the saved state belongs to other rules, sizes or claims, another start or "
                    "another choice of --no-symmetry",
                    "name another one, or remove the file");
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

}  // namespace orchard
