#include "cli/output.hpp"

#include <fcntl.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstdio>
#include <cstring>

#include "base/utf8.hpp"

namespace orchard::cli {
namespace {

int first_error = 0;  // of standard output

// The length of one of the command's own sequences at the front of a text: a colour, the line
// cleared, the terminal's second screen; 0 if there is none.
std::size_t own_sequence(std::string_view text) {
  for (const std::string_view screen : {"\x1b[?1049h", "\x1b[?1049l"}) {
    if (text.starts_with(screen)) return screen.size();
  }
  if (!text.starts_with("\x1b[")) return 0;
  const std::size_t end = text.find_first_not_of("0123456789;", 2);
  constexpr std::string_view ends = "mKHJA";
  return end != std::string_view::npos && ends.find(text[end]) != std::string_view::npos ? end + 1
                                                                                         : 0;
}

void write(std::FILE* stream, std::string_view text, int& error) {
  const auto put = [&](std::string_view part) {
    if (std::fwrite(part.data(), 1, part.size(), stream) != part.size() && error == 0) {
      error = errno;
    }
  };
  constexpr std::string_view movements = "\x1b\r";
  while (!text.empty()) {
    const std::size_t plain = std::min(text.find_first_of(movements), text.size());
    put(safe_for_terminal(text.substr(0, plain)));
    text.remove_prefix(plain);
    if (text.empty()) return;
    const std::size_t own = text.front() == '\r' ? 1 : own_sequence(text);
    put(own > 0 ? std::string(text.substr(0, own)) : safe_for_terminal(text.substr(0, 1)));
    text.remove_prefix(own > 0 ? own : 1);
  }
}

}  // namespace

void write_out(std::string_view text) {
  write(stdout, text, first_error);
}

void write_error(std::string_view text) {
  int ignored = 0;
  write(stderr, text, ignored);
}

void open_missing_streams() {
  // The lowest free number is taken, so they come in order. Writing to /dev/full fails.
  const struct {
    int stream;
    const char* stands_for_it;
    int mode;
  } streams[] = {{STDIN_FILENO, "/dev/null", O_RDONLY},
                 {STDOUT_FILENO, "/dev/full", O_WRONLY},
                 {STDERR_FILENO, "/dev/null", O_WRONLY}};
  for (const auto& [stream, stands_for_it, mode] : streams) {
    if (::fcntl(stream, F_GETFD) < 0 && errno == EBADF) (void)::open(stands_for_it, mode);
  }
}

std::optional<std::string> output_fault() {
  errno = 0;
  if (std::fflush(stdout) != 0 && first_error == 0) first_error = errno;
  if (first_error == 0) return std::nullopt;
  return std::strerror(first_error);
}

}  // namespace orchard::cli
