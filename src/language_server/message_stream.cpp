#include "language_server/message_stream.hpp"

#include <fmt/core.h>
#include <poll.h>
#include <unistd.h>

#include <array>
#include <cerrno>
#include <charconv>

namespace orchard::language_server {

namespace {

constexpr std::string_view end_of_header = "\r\n\r\n";
constexpr std::size_t longest_header = 4096;

// The number of bytes that a header announces.
std::optional<std::size_t> length_in(std::string_view header) {
  constexpr std::string_view name = "content-length:";
  while (!header.empty()) {
    const std::string_view line = header.substr(0, header.find("\r\n"));
    header.remove_prefix(std::min(line.size() + 2, header.size()));
    bool is_length = line.size() > name.size();
    for (std::size_t i = 0; is_length && i < name.size(); ++i) {
      const char small =
          line[i] >= 'A' && line[i] <= 'Z' ? static_cast<char>(line[i] + 32) : line[i];
      is_length = small == name[i];
    }
    if (!is_length) continue;
    std::string_view number = line.substr(name.size());
    number.remove_prefix(std::min(number.find_first_not_of(' '), number.size()));
    std::size_t length = 0;
    const auto [end, fault] = std::from_chars(number.begin(), number.end(), length);
    if (fault == std::errc() && end != number.begin()) return length;
  }
  return std::nullopt;
}

}  // namespace

// Waits for more input; false if there is none any more.
bool MessageStream::fill(const std::stop_token& stop) {
  constexpr int patience = 100;  // milliseconds
  while (!stop.stop_requested()) {
    pollfd waiting{input_, POLLIN, 0};
    const int ready = poll(&waiting, 1, patience);
    if (ready < 0 && errno != EINTR) return false;
    if (ready <= 0) continue;
    std::array<char, 1 << 16> bytes;
    const ssize_t count = read(input_, bytes.data(), bytes.size());
    if (count < 0 && errno == EINTR) continue;
    if (count <= 0) return false;
    buffer_.append(bytes.data(), static_cast<std::size_t>(count));
    return true;
  }
  return false;
}

std::optional<std::string> MessageStream::receive(const std::stop_token& stop) {
  std::size_t header = buffer_.find(end_of_header);
  while (header == std::string::npos) {
    if (buffer_.size() > longest_header) {
      fault_ = "the input has no header such as \"Content-Length: 120\"";
      return std::nullopt;
    }
    if (!fill(stop)) {
      if (!buffer_.empty() && !stop.stop_requested()) fault_ = "the input ends within a header";
      return std::nullopt;
    }
    header = buffer_.find(end_of_header);
  }
  const auto length = length_in(std::string_view(buffer_).substr(0, header));
  if (!length) {
    fault_ = "a header says no Content-Length";
    return std::nullopt;
  }
  if (*length > most_bytes) {
    fault_ = fmt::format("a message of {} bytes is too long; the most is {}", *length, most_bytes);
    return std::nullopt;
  }
  const std::size_t begin = header + end_of_header.size();
  while (buffer_.size() < begin + *length) {
    if (fill(stop)) continue;
    if (!stop.stop_requested()) fault_ = "the input ends within a message";
    return std::nullopt;
  }
  std::string message = buffer_.substr(begin, *length);
  buffer_.erase(0, begin + *length);
  return message;
}

bool MessageStream::send(const std::string& message) {
  const std::string framed = fmt::format("Content-Length: {}\r\n\r\n{}", message.size(), message);
  const std::lock_guard lock(sending_);
  for (std::size_t sent = 0; sent < framed.size() && !broken_;) {
    const ssize_t count = write(output_, framed.data() + sent, framed.size() - sent);
    if (count < 0 && errno == EINTR) continue;
    if (count <= 0) {
      broken_ = true;
    } else {
      sent += static_cast<std::size_t>(count);
    }
  }
  return !broken_;
}

}  // namespace orchard::language_server
