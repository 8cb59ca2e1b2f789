#include "support/terminal.hpp"

#include <poll.h>
#include <pty.h>
#include <sys/wait.h>
#include <termios.h>
#include <unistd.h>

#include <cstdlib>
#include <stdexcept>

namespace orchard::testing {
namespace {

// A prompt is shown a moment before keys are read one by one; the end of the input typed in that
// moment would be lost with the change.
void wait_until_keys_are_read(int terminal) {
  for (int tries = 0; tries < 5000; ++tries) {
    termios modes{};
    if (::tcgetattr(terminal, &modes) != 0 || (modes.c_lflag & ICANON) == 0) return;
    ::usleep(1000);
  }
}

}  // namespace

std::string run_on_terminal(const std::vector<std::string>& arguments, const std::string& prompt,
                            const std::vector<std::string>& lines) {
  winsize size{};
  size.ws_row = 40;
  size.ws_col = 120;
  int terminal = -1;
  const pid_t child = ::forkpty(&terminal, nullptr, nullptr, &size);
  if (child < 0) throw std::runtime_error("no terminal can be made");
  if (child == 0) {
    ::setenv("TERM", "xterm", 1);
    ::setenv("LANG", "C.UTF-8", 1);
    ::unsetenv("LC_ALL");
    std::vector<char*> words{const_cast<char*>(ORCHARD_COMMAND)};
    for (const std::string& word : arguments) words.push_back(const_cast<char*>(word.c_str()));
    words.push_back(nullptr);
    ::execv(words[0], words.data());
    ::_exit(127);
  }
  std::string shown;
  std::size_t looked_at = 0;
  std::size_t next = 0;
  constexpr int patience = 20'000;  // milliseconds without a sign of life
  while (true) {
    pollfd wait{terminal, POLLIN, 0};
    if (::poll(&wait, 1, patience) <= 0) {
      ::kill(child, SIGKILL);
      ::waitpid(child, nullptr, 0);
      ::close(terminal);
      throw std::runtime_error("no sign of life; shown so far: " + shown);
    }
    char buffer[4096];
    const ssize_t count = ::read(terminal, buffer, sizeof buffer);
    if (count <= 0) break;  // the other side is closed
    shown.append(buffer, static_cast<std::size_t>(count));
    const std::size_t at = shown.find(prompt, looked_at);
    if (at == std::string::npos) continue;
    looked_at = shown.size();
    wait_until_keys_are_read(terminal);
    const std::string typed = next < lines.size() ? lines[next++] + "\n" : std::string("\x04");
    if (::write(terminal, typed.data(), typed.size()) < 0) break;
  }
  ::close(terminal);
  ::waitpid(child, nullptr, 0);
  return shown;
}

}  // namespace orchard::testing
