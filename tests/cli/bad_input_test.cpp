// Whatever is given to it, the command answers with a message and status 2, never with a crash.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "orchard/random.hpp"
#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::testing::bad_input_test {
namespace {

using ::testing::HasSubstr;

class BadFile : public ::testing::Test {
 protected:
  ProcessResult show(const std::string& contents, std::vector<std::string> options = {}) {
    options.insert(options.begin(), {"show", folder_.write("bad.gdl", contents)});
    return run_orchard(options);
  }
  TemporaryFolder folder_;
};

TEST_F(BadFile, EmptyMissingOrAFolder) {
  EXPECT_EQ(show("").status, 2);
  EXPECT_THAT(show("").err, HasSubstr("the description names no role"));
  const auto missing = run_orchard({"show", folder_.path("none.gdl")});
  EXPECT_EQ(missing.status, 2);
  EXPECT_THAT(missing.err, HasSubstr("there is no such file"));
  const auto folder = run_orchard({"show", folder_.path(".")});
  EXPECT_EQ(folder.status, 2);
  EXPECT_THAT(folder.err, HasSubstr("this is a folder"));
}

TEST_F(BadFile, NestedAMillionDeep) {
  EXPECT_EQ(show(std::string(1'000'000, '(')).status, 2);
  const std::string closed = std::string(1'000'000, '(') + std::string(1'000'000, ')');
  EXPECT_THAT(show(closed).err, HasSubstr("too-deep"));
  EXPECT_EQ(show(closed, {"--nesting", "1000000"}).status, 2);  // read to the end, and no rule
}

TEST_F(BadFile, BinaryBytes) {
  Random random(11);
  std::string bytes;
  for (int i = 0; i < 50'000; ++i) bytes += static_cast<char>(1 + random.below(255));
  const auto result = show(bytes);
  EXPECT_EQ(result.status, 2);
  EXPECT_THAT(result.err, HasSubstr("stray-character"));
  EXPECT_EQ(result.err.find('\x01'), std::string::npos);  // nothing raw reaches the terminal
  bytes[40'000] = '\0';
  const auto no_text = show(bytes);
  EXPECT_EQ(no_text.status, 2);
  EXPECT_THAT(no_text.err,
              HasSubstr("bad.gdl: error: this is not a text file: it contains zero bytes"));
  EXPECT_LT(no_text.err.size(), 500u);
}

// Files longer than what is read at once, up to the byte that is too many.
TEST_F(BadFile, AsLongAsItMayBe) {
  const std::string text = read_file(game_path("silo"));
  const std::string longer = std::string(200'000 - text.size(), ' ') + text;
  EXPECT_EQ(show(longer, {"--file-bytes", "200000"}).status, 0);
  EXPECT_THAT(show(longer, {"--file-bytes", "199999"}).err,
              HasSubstr("the file is larger than 199999 bytes"));
}

TEST_F(BadFile, ManyFaultsInOneRun) {
  const auto result =
      show("(role east\n(init (a 1))\n(legal east)\n(<= (next (a ?x)) (true (a 1)))\nplum\n");
  EXPECT_EQ(result.status, 2);
  EXPECT_EQ(result.out, "");
  for (const char* code :
       {"unclosed-parenthesis", "keyword-arity", "unsafe-variable", "stray-symbol"}) {
    EXPECT_THAT(result.err, HasSubstr(code));
  }
}

TEST_F(BadFile, WithJsonTheDiagnosticsAreADocument) {
  const auto result = show("(role a) (legal a)", {"--json"});
  EXPECT_EQ(result.status, 2);
  EXPECT_EQ(result.err, "");
  const auto document = nlohmann::json::parse(result.out);
  EXPECT_EQ(document["diagnostics"][0]["code"], "keyword-arity");
  EXPECT_EQ(document["diagnostics"][0]["line"], 1);
  EXPECT_EQ(document["diagnostics"][0]["column"], 10);
}

TEST_F(BadFile, LimitsAreOptions) {
  const std::string fine = read_file(game_path("espalier"));
  EXPECT_EQ(show(fine).status, 0);
  for (const std::vector<std::string>& limit : {std::vector<std::string>{"--file-bytes", "1K"},
                                                {"--symbols", "5"},
                                                {"--nesting", "2"},
                                                {"--instances", "10"},
                                                {"--join-steps", "10"}}) {
    const auto result = show(fine, limit);
    EXPECT_EQ(result.status, 2) << limit[0];
    EXPECT_THAT(result.err, HasSubstr("remedy: ")) << limit[0];
  }
  const std::string deep = "(role r)(init (f z))(legal r go)(<= (next (f (s ?x))) (true (f ?x)))";
  EXPECT_EQ(show(deep, {"--after", "5"}).status, 0);
  const auto grown = show(deep, {"--after", "5", "--term-depth", "3"});
  EXPECT_EQ(grown.status, 2);
  EXPECT_THAT(grown.err, HasSubstr("too-large"));
}

TEST(BadCall, IsToldWithARemedy) {
  const std::string game = game_path("espalier_3x3");
  const struct {
    std::vector<std::string> call;
    const char* message;
  } calls[] = {
      {{}, "orchard help"},
      {{"shwo", game}, "did you mean show?"},
      {{"show"}, "GAME is required"},
      {{"show", game, "--afte", "3"}, "did you mean --after?"},
      {{"show", game, "--after=2", "--dephts", "3"}, "show has no option --dephts"},
      {{"show", game, "--depth", "3"}, "it is an option of census"},
      {{"solve", game, "--positon", "3"}, "did you mean --positions?"},
      {{"show", game, "--xyzzyxy"}, "orchard help show lists the options"},
      {{"help", "shwo"}, "did you mean show?"},
      {{"help", "nothing"}, "there is no command nothing"},
      {{"hlep"}, "did you mean help?"},
      {{"check", game, "--seat", "x"}, "it is an option of play, series, learn"},
      {{"show", game, "--after", "many"}, "east cannot play many here"},
      {{"show", game, "--after", "-3"}, "-3"},
      {{"census", game, "--depth", "1.5"}, "1.5 is not a whole number"},
      {{"census", game, "--memory", "2X"}, "2X is not a whole number"},
      {{"census", game, "--memory", "99999999999T"}, "99999999999T is not a whole number"},
      {{"census", game, "--seconds", "0"}, "0 is not a positive number of seconds"},
      {{"playouts", game, "--threads", "5000"}, "allowed are 1 to 1024"},
      {{"playouts", game, "--games", "0"}, "out of range"},
      {{"census", game, "--games", "3"}, "it is an option of walk, playouts, series, learn"},
      {{"show", game, "--position", "/nonexistent"}, "there is no such file"},
  };
  for (const auto& [call, message] : calls) {
    const auto result = run_orchard(call);
    EXPECT_EQ(result.status, 2) << message;
    EXPECT_THAT(result.err, HasSubstr(message));
    EXPECT_THAT(result.err, HasSubstr("remedy: "));
  }
  EXPECT_THAT(run_orchard({"census", game, "--depth", "x", "--json"}).out,
              HasSubstr("\"wrong-call\""));
}

}  // namespace
}  // namespace orchard::testing::bad_input_test
