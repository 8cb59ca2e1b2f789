#include "support/process.hpp"

#include <fcntl.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cstdlib>
#include <stdexcept>

#include "support/files.hpp"

namespace orchard::testing {

// Streams go through files, so that no amount of output can block the program.
ProcessResult run_process(const std::vector<std::string>& words, const std::string& input) {
  const TemporaryFolder folder;
  const std::string in = folder.write("in", input);
  const std::string out = folder.path("out");
  const std::string err = folder.path("err");
  ::setenv("LANG", "C.UTF-8", 1);
  ::unsetenv("LC_ALL");

  posix_spawn_file_actions_t actions;
  posix_spawn_file_actions_init(&actions);
  constexpr int created = O_WRONLY | O_CREAT | O_TRUNC;
  posix_spawn_file_actions_addopen(&actions, STDIN_FILENO, in.c_str(), O_RDONLY, 0);
  posix_spawn_file_actions_addopen(&actions, STDOUT_FILENO, out.c_str(), created, 0600);
  posix_spawn_file_actions_addopen(&actions, STDERR_FILENO, err.c_str(), created, 0600);
  std::vector<char*> arguments;
  for (const std::string& word : words) arguments.push_back(const_cast<char*>(word.c_str()));
  arguments.push_back(nullptr);
  pid_t child = 0;
  const int failed =
      ::posix_spawn(&child, arguments[0], &actions, nullptr, arguments.data(), environ);
  posix_spawn_file_actions_destroy(&actions);
  if (failed != 0) throw std::runtime_error("cannot start " + words.front());
  int status = 0;
  ::waitpid(child, &status, 0);
  ProcessResult result;
  result.status = WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
  result.out = read_file(out);
  result.err = read_file(err);
  return result;
}

ProcessResult run_orchard(std::vector<std::string> arguments, const std::string& input) {
  arguments.insert(arguments.begin(), ORCHARD_COMMAND);
  return run_process(arguments, input);
}

}  // namespace orchard::testing
