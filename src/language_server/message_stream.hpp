// Messages with a header, as the Language Server Protocol frames them ("Content-Length: N"), over
// two file descriptors.
//
// Reading belongs to one thread; any thread may send.
#pragma once

#include <mutex>
#include <optional>
#include <stop_token>
#include <string>

namespace orchard::language_server {

class MessageStream {
 public:
  static constexpr std::size_t most_bytes = 64u << 20;  // of a message

  MessageStream(int input, int output) : input_(input), output_(output) {}

  // The next message; none at the end of the input, when a stop is asked for (within a tenth of a
  // second), and after a header that cannot be understood: then `fault` says why.
  std::optional<std::string> receive(const std::stop_token& stop);
  const std::string& fault() const { return fault_; }

  // False if it cannot be written, now and ever after.
  bool send(const std::string& message);

 private:
  bool fill(const std::stop_token& stop);

  const int input_;
  const int output_;
  std::string buffer_;
  std::string fault_;
  std::mutex sending_;
  bool broken_ = false;
};

}  // namespace orchard::language_server
