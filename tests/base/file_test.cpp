// Files written whole, whatever stands at their path; locks; texts of strangers.
#include "base/file.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <sys/stat.h>
#include <unistd.h>

#include <filesystem>
#include <thread>

#include "base/utf8.hpp"
#include "support/files.hpp"

namespace orchard::file_test {
namespace {

using ::testing::HasSubstr;
using testing::read_file;
using testing::TemporaryFolder;

unsigned mode_of(const std::string& path) {
  struct stat there {};
  EXPECT_EQ(::stat(path.c_str(), &there), 0);
  return there.st_mode & 07777;
}

// Nothing but the files named stands in the folder.
std::vector<std::string> names_in(const TemporaryFolder& folder) {
  std::vector<std::string> names;
  for (const auto& entry : std::filesystem::directory_iterator(folder.path(""))) {
    names.push_back(entry.path().filename().string());
  }
  std::ranges::sort(names);
  return names;
}

TEST(WholeFile, KeepsTheModeOfWhatItReplaces) {
  const TemporaryFolder folder;
  const std::string path = folder.write("secret", "old");
  ASSERT_EQ(::chmod(path.c_str(), 0600), 0);
  EXPECT_TRUE(write_whole_file(path, "new").empty());
  EXPECT_EQ(read_file(path), "new");
  EXPECT_EQ(mode_of(path), 0600u);
  EXPECT_EQ(names_in(folder), std::vector<std::string>{"secret"});
}

TEST(WholeFile, FollowsLinks) {
  const TemporaryFolder folder;
  const std::string real = folder.write("real", "old");
  const std::string link = folder.path("link");
  std::filesystem::create_symlink(real, link);
  EXPECT_TRUE(write_whole_file(link, "by the link").empty());
  EXPECT_TRUE(std::filesystem::is_symlink(link));
  EXPECT_EQ(read_file(real), "by the link");
  // One that leads to no file yet makes it where it leads.
  const std::string ahead = folder.path("ahead");
  std::filesystem::create_symlink(folder.path("to be made"), ahead);
  EXPECT_TRUE(write_whole_file(ahead, "made").empty());
  EXPECT_TRUE(std::filesystem::is_symlink(ahead));
  EXPECT_EQ(read_file(folder.path("to be made")), "made");
}

TEST(WholeFile, WritesToAllNamesOfAFile) {
  const TemporaryFolder folder;
  const std::string one = folder.write("one", "a longer text than the new one");
  std::filesystem::create_hard_link(one, folder.path("other"));
  EXPECT_TRUE(write_whole_file(one, "new").empty());
  EXPECT_EQ(read_file(folder.path("other")), "new");
  EXPECT_EQ(std::filesystem::hard_link_count(one), 2u);
  EXPECT_EQ(names_in(folder), (std::vector<std::string>{"one", "other"}));
}

TEST(WholeFile, WritesThroughWhatIsNoFile) {
  EXPECT_TRUE(write_whole_file("/dev/null", "nothing").empty());
  EXPECT_TRUE(std::filesystem::is_character_file("/dev/null"));
  EXPECT_THAT(write_whole_file("/dev/full", "something").render(), HasSubstr("No space left"));
  const TemporaryFolder folder;
  const std::string pipe = folder.path("pipe");
  ASSERT_EQ(::mkfifo(pipe.c_str(), 0600), 0);
  std::string read;
  std::jthread reader([&] { read = read_file(pipe); });
  EXPECT_TRUE(write_whole_file(pipe, "through the pipe").empty());
  reader.join();
  EXPECT_EQ(read, "through the pipe");
  EXPECT_TRUE(std::filesystem::is_fifo(pipe));
}

TEST(WholeFile, UnfinishedLeavesNothing) {
  const TemporaryFolder folder;
  const std::string path = folder.write("kept", "old");
  {
    WholeFile file(path);
    file.write("half", 4);
  }
  EXPECT_EQ(read_file(path), "old");
  EXPECT_EQ(names_in(folder), std::vector<std::string>{"kept"});
}

TEST(WholeFile, IsToldBeforeTheWorkWhereItCannotBeWritten) {
  const TemporaryFolder folder;
  const std::string file = folder.write("file", "");
  EXPECT_TRUE(check_writable(file).empty());
  EXPECT_TRUE(check_writable(folder.path("new")).empty());
  EXPECT_TRUE(check_writable("/dev/null").empty());
  EXPECT_THAT(check_writable(folder.path("")).render(), HasSubstr("Is a directory"));
  EXPECT_THAT(check_writable(folder.path("none/file")).render(), HasSubstr("No such file"));
  EXPECT_THAT(check_writable(file + "/below").render(), HasSubstr("Not a directory"));
  EXPECT_THAT(check_writable("").render(), HasSubstr("cannot-write"));
  EXPECT_EQ(names_in(folder), std::vector<std::string>{"file"});
}

TEST(FileLock, IsHeldByOneAtATime) {
  const TemporaryFolder folder;
  const std::string path = folder.path("table");
  {
    const auto held = FileLock::take(path, "wait");
    ASSERT_TRUE(held) << held.diagnostics().render();
    const auto second = FileLock::take(path, "wait for the other");
    ASSERT_FALSE(second);
    EXPECT_THAT(second.diagnostics().render(),
                ::testing::AllOf(HasSubstr("in-use"), HasSubstr("wait for the other")));
  }
  EXPECT_TRUE(FileLock::take(path, "wait"));
  EXPECT_TRUE(names_in(folder).empty());  // nothing is left of it
  // What a process that was killed left behind holds nobody up.
  (void)folder.write("table.lock", "");
  EXPECT_TRUE(FileLock::take(path, "wait"));
}

TEST(Utf8, ShowsWhatATerminalWouldObey) {
  EXPECT_EQ(safe_for_terminal("plain\tand\nstraight"), "plain\tand\nstraight");
  EXPECT_EQ(safe_for_terminal("\x1b[2Ja\u202Eb\xE9\u009B\x7F\r"),
            "\\x1b[2Ja\\u{202e}b\\xe9\\x9b\\x7f\\x0d");
  EXPECT_EQ(safe_for_terminal("\u2066déjà 早"), "\\u{2066}déjà 早");
}

}  // namespace
}  // namespace orchard::file_test
