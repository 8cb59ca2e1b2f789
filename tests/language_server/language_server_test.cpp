// The language server as an editor speaks to it: a conversation in the process, and the command.
#include "language_server/language_server.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <condition_variable>

#include "orchard/random.hpp"
#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::language_server {
namespace {

using ::testing::Contains;
using ::testing::HasSubstr;
using ::testing::StartsWith;

const char* const baskets =
    "(role east) (role west)\n"
    "(after east west) (after west east)\n"
    "(basket left) (basket right)\n"
    "(init (turn east))\n"
    "(<= (legal ?who (pick ?b)) (true (turn ?who)) (basket ?b))\n"
    "(<= (legal ?who wait) (role ?who) (not (true (turn ?who))))\n"
    "(<= (next (turn ?next)) (true (turn ?who)) (after ?who ?next))\n"
    "(<= (next (picked ?b)) (does ?_who (pick ?b)))\n"
    "(<= (next (picked ?b)) (true (picked ?b)))\n"
    "(<= terminal (true (picked left)) (true (picked right)))\n"
    "(<= (goal ?who 50) (role ?who))\n";

// An editor that opens texts and waits for what is told of them.
class Editor {
 public:
  Editor() : server_({}, [this](const Json& message) { take(message); }) {}

  void begin(const Json& capabilities = Json::object()) {
    ask("initialize", {{"capabilities", capabilities}});
    tell("initialized", Json::object());
  }
  void tell(const std::string& method, const Json& parameters) {
    server_.receive(json_text({{"jsonrpc", "2.0"}, {"method", method}, {"params", parameters}}));
  }
  Json ask(const std::string& method, const Json& parameters) {
    const int id = ++last_id_;
    server_.receive(
        json_text({{"jsonrpc", "2.0"}, {"id", id}, {"method", method}, {"params", parameters}}));
    std::unique_lock lock(mutex_);
    heard_.wait(lock, [&] { return answers_.contains(id); });
    return answers_[id];
  }
  Json result(const std::string& method, const Json& parameters) {
    const Json answer = ask(method, parameters);
    EXPECT_TRUE(answer.contains("result")) << json_text(answer);
    return answer.contains("result") ? answer["result"] : Json();
  }
  void open(const std::string& uri, const std::string& text) {
    tell("textDocument/didOpen",
         {{"textDocument", {{"uri", uri}, {"languageId", "gdl"}, {"version", 1}, {"text", text}}}});
  }
  void change(const std::string& uri, int version, const Json& changes) {
    tell("textDocument/didChange",
         {{"textDocument", {{"uri", uri}, {"version", version}}}, {"contentChanges", changes}});
  }
  // What is told of a version, once it is.
  Json findings(const std::string& uri, int version) {
    std::unique_lock lock(mutex_);
    heard_.wait(lock, [&] { return findings_.contains({uri, version}); });
    return findings_[{uri, version}];
  }
  void forget() {
    const std::lock_guard lock(mutex_);
    findings_.clear();
  }
  template <class Test>
  bool eventually(Test&& test) {
    for (int i = 0; i < 300; ++i) {
      if (test()) return true;
      std::this_thread::sleep_for(std::chrono::milliseconds(100));
    }
    return false;
  }
  LanguageServer& server() { return server_; }

 private:
  void take(const Json& message) {
    const std::lock_guard lock(mutex_);
    if (message.contains("method")) {
      const Json& parameters = member(message, "params");
      if (message["method"] == "textDocument/publishDiagnostics" &&
          parameters.contains("version")) {
        findings_[{text_in(parameters, "uri"), parameters["version"]}] = parameters["diagnostics"];
      }
    } else if (message["id"].is_number()) {
      answers_[message["id"]] = message;
    }
    heard_.notify_all();
  }

  std::mutex mutex_;
  std::condition_variable heard_;
  std::map<int, Json> answers_;
  std::map<std::pair<std::string, int>, Json> findings_;
  int last_id_ = 0;
  LanguageServer server_;
};

// Where something stands, in a text of ASCII.
Json spot_of(const std::string& text, const std::string& before, const std::string& what) {
  const std::size_t at = text.find(before + what) + before.size();
  const std::size_t line = text.rfind('\n', at) + 1;
  return {{"line", std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(at), '\n')},
          {"character", at - line}};
}

Json asked_of(const std::string& uri, const Json& position) {
  return {{"textDocument", {{"uri", uri}}}, {"position", position}};
}

class LanguageServerTest : public ::testing::Test {
 protected:
  void SetUp() override { editor_.begin(); }
  void open(const std::string& name, const std::string& text) { editor_.open(uri(name), text); }
  std::string uri(const std::string& name) const { return uri_of(folder_.path(name)); }

  testing::TemporaryFolder folder_;
  Editor editor_;
};

TEST_F(LanguageServerTest, UnderlinesAsOneTypes) {
  open("own.gdl", baskets);
  EXPECT_EQ(editor_.findings(uri("own.gdl"), 1), Json::array());
  const Json at = spot_of(baskets, "(true (turn ?who)) (", "basket");
  editor_.change(uri("own.gdl"), 2,
                 Json::array({{{"range", {{"start", at}, {"end", at}}}, {"text", "x"}}}));
  const Json findings = editor_.findings(uri("own.gdl"), 2);
  ASSERT_EQ(findings.size(), 1u) << json_text(findings, 1);
  EXPECT_EQ(findings[0]["code"], "undefined-relation");
  EXPECT_THAT(text_in(findings[0], "message"), HasSubstr("did you mean `basket`?"));
  EXPECT_EQ(findings[0]["range"]["start"]["line"], 4);
  // And mends it.
  const Json actions =
      editor_.result("textDocument/codeAction", {{"textDocument", {{"uri", uri("own.gdl")}}},
                                                 {"range", findings[0]["range"]},
                                                 {"context", Json::object()}});
  ASSERT_EQ(actions.size(), 2u) << json_text(actions, 1);
  EXPECT_EQ(actions[0]["title"], "write basket instead of xbasket");
  editor_.change(
      uri("own.gdl"), 3,
      Json::array({{{"range", actions[0]["edit"]["changes"][uri("own.gdl")][0]["range"]},
                    {"text", actions[0]["edit"]["changes"][uri("own.gdl")][0]["newText"]}}}));
  EXPECT_EQ(editor_.findings(uri("own.gdl"), 3), Json::array());
}

TEST_F(LanguageServerTest, TellsAgainWhatIsOpenedAgain) {
  const std::string odd = std::string(baskets) + "(<= (legal east rest) (true (nothing)))";
  open("own.gdl", odd);
  const Json before = editor_.findings(uri("own.gdl"), 1);
  EXPECT_FALSE(before.empty());
  editor_.tell("textDocument/didClose", {{"textDocument", {{"uri", uri("own.gdl")}}}});
  editor_.forget();
  open("own.gdl", odd);
  EXPECT_EQ(editor_.findings(uri("own.gdl"), 1), before);
}

TEST_F(LanguageServerTest, KeepsWhatItKnewWhileTheTextDoesNotRead) {
  open("own.gdl", baskets);
  editor_.findings(uri("own.gdl"), 1);
  const std::string broken = std::string(baskets) + "(<= (legal ?who (pick ?b)) (does ";
  editor_.change(uri("own.gdl"), 2, Json::array({{{"text", broken}}}));
  EXPECT_EQ(editor_.findings(uri("own.gdl"), 2)[0]["code"], "unclosed-parenthesis");
  const Json items = editor_.result("textDocument/completion",
                                    asked_of(uri("own.gdl"), {{"line", 11}, {"character", 33}}));
  std::vector<std::string> labels;
  for (const Json& item : items) labels.push_back(text_in(item, "label"));
  EXPECT_THAT(labels, Contains("east"));
  EXPECT_THAT(
      text_in(editor_.result("textDocument/hover",
                             asked_of(uri("own.gdl"), {{"line", 1}, {"character", 3}}))["contents"],
              "value"),
      HasSubstr("At the start true: (after east west)"));
}

TEST_F(LanguageServerTest, DoesNotWaitForWhatRulesMakeOfAName) {
  std::string rules = baskets;
  for (int i = 0; i < 30; ++i) rules += "(n " + std::to_string(i) + ") ";
  rules += "\n(<= (all ?a ?b ?c ?d ?e ?f ?g) (n ?a) (n ?b) (n ?c) (n ?d) (n ?e) (n ?f) (n ?g))\n";
  open("own.gdl", rules);
  editor_.findings(uri("own.gdl"), 1);
  const Json hover = editor_.result("textDocument/hover",
                                    asked_of(uri("own.gdl"), spot_of(rules, "(<= (", "all")));
  EXPECT_THAT(text_in(hover["contents"], "value"), HasSubstr("takes too long to work out here"));
}

TEST_F(LanguageServerTest, FindsAndRenamesThroughAllTexts) {
  const std::string cases =
      "(case \"picked\" (start) (moves (pick left)) (expect (true (picked left))))";
  open("own.gdl", baskets);
  folder_.write("own.cases", cases);  // not open
  const Json where = asked_of(uri("own.gdl"), spot_of(baskets, "(legal ?who (", "pick"));
  const Json definition = editor_.result("textDocument/definition", where);
  ASSERT_EQ(definition.size(), 1u);
  EXPECT_EQ(definition[0]["range"]["start"]["line"], 4);
  Json all = where;
  all["context"]["includeDeclaration"] = true;
  EXPECT_EQ(editor_.result("textDocument/references", all).size(), 3u);
  Json renaming = where;
  renaming["newName"] = "take";
  const Json changes = editor_.result("textDocument/rename", renaming)["changes"];
  EXPECT_EQ(changes[uri("own.gdl")].size(), 2u);
  EXPECT_EQ(changes[uri("own.cases")].size(), 1u);
  renaming["newName"] = "picked";
  EXPECT_THAT(text_in(editor_.ask("textDocument/rename", renaming)["error"], "message"),
              HasSubstr("something else here already"));
  EXPECT_EQ(editor_.result("textDocument/prepareRename",
                           asked_of(uri("own.gdl"), spot_of(baskets, "(", "role"))),
            Json());
}

TEST_F(LanguageServerTest, SaysAboveEachCaseAndClaimHowItCameOut) {
  open("own.gdl", baskets);
  open("own.cases",
       "(case \"good\" (start) (expect (legal east (pick left))))\n"
       "(case \"bad\" (start) (expect (legal west (pick left))))\n");
  open("own.claims",
       "(claim \"turns\" (exclusive (turn ?who)))\n(claim \"never\" (never (true (picked "
       "left))))\n");
  const auto titles = [&](const std::string& name) {
    std::string text;
    for (const Json& lens :
         editor_.result("textDocument/codeLens", {{"textDocument", {{"uri", uri(name)}}}})) {
      text += text_in(lens["command"], "title") + "\n";
    }
    return text;
  };
  ASSERT_TRUE(
      editor_.eventually([&] { return titles("own.cases").find("not run") == std::string::npos; }));
  EXPECT_THAT(
      titles("own.cases"),
      StartsWith("passes (run it)\ndraw its last position\nexpected (legal west (pick left)); "));
  ASSERT_TRUE(editor_.eventually(
      [&] { return titles("own.claims").find("not run") == std::string::npos; }));
  EXPECT_THAT(titles("own.claims"), HasSubstr("holds: "));
  EXPECT_THAT(titles("own.claims"), HasSubstr("fails: "));
  const Json failed = editor_.findings(uri("own.cases"), 1);
  ASSERT_EQ(failed.size(), 1u) << json_text(failed, 1);
  EXPECT_EQ(failed[0]["code"], "failed-case");
  EXPECT_EQ(failed[0]["range"]["start"]["line"], 1);

  const auto run = [&](const char* command, const Json& arguments) {
    return editor_.ask("workspace/executeCommand",
                       {{"command", command}, {"arguments", arguments}});
  };
  EXPECT_EQ(run(run_case_command, {uri("own.cases"), "good"})["result"]["passed"], true);
  EXPECT_THAT(text_in(run(run_case_command, {uri("own.cases"), "bad"})["result"], "text"),
              HasSubstr("\"bad\" fails\nline 2: "));
  EXPECT_THAT(text_in(run(draw_command, {uri("own.gdl")})["result"], "text"), HasSubstr("turn"));
  EXPECT_THAT(text_in(run(draw_command, {uri("own.cases"), "good"})["result"], "text"),
              HasSubstr("turn"));
  EXPECT_THAT(text_in(run(run_case_command, {uri("own.cases"), "none"})["error"], "message"),
              HasSubstr("no case has `none` in its name"));
  EXPECT_THAT(text_in(run("rm", {})["error"], "message"), HasSubstr("no command rm"));
}

TEST_F(LanguageServerTest, LaysOutFoldsAndNamesForms) {
  const std::string untidy = "(role east)\n(<= terminal\n      (true   (turn east)))\n";
  open("own.gdl", untidy);
  const Json document = {{"textDocument", {{"uri", uri("own.gdl")}}}, {"options", Json::object()}};
  const Json edits = editor_.result("textDocument/formatting", document);
  ASSERT_EQ(edits.size(), 1u);
  EXPECT_EQ(edits[0]["newText"], "(role east)\n(<= terminal\n    (true (turn east)))\n");
  EXPECT_EQ(editor_.result("textDocument/foldingRange", document)[0]["startLine"], 1);
  EXPECT_EQ(editor_.result("textDocument/documentSymbol", document).size(), 2u);
  const Json tokens = editor_.result("textDocument/semanticTokens/full", document)["data"];
  EXPECT_EQ(tokens.size() % 5, 0u);
  EXPECT_EQ(tokens.size() / 5, 7u);
}

TEST_F(LanguageServerTest, ManyQuickChangesEndAsTheLastText) {
  open("own.gdl", baskets);
  Random random(3);
  Document text{std::string(baskets)};
  int version = 1;
  for (int i = 0; i < 200; ++i) {
    const auto size = static_cast<std::uint32_t>(text.text().size());
    const auto begin = static_cast<std::uint32_t>(random.below(size));
    const auto end = std::min(size, begin + static_cast<std::uint32_t>(random.below(12)));
    const std::string instead =
        random.below(2) == 0 ? ""
                             : std::string(baskets).substr(random.below(100), random.below(30));
    const Json range = range_of(text, begin, end, Units::utf16);
    text.replace(begin, end, instead);
    editor_.change(uri("own.gdl"), ++version, Json::array({{{"range", range}, {"text", instead}}}));
    if (i % 10 == 0)
      editor_.result("textDocument/completion", asked_of(uri("own.gdl"), range["start"]));
  }
  const Json findings = editor_.findings(uri("own.gdl"), version);
  Editor other;
  other.begin();
  other.open(uri("own.gdl"), text.text());
  EXPECT_EQ(findings, other.findings(uri("own.gdl"), 1));
}

TEST_F(LanguageServerTest, AnswersEverythingThatIsNoRequest) {
  const auto code = [&](const Json& answer) { return answer["error"]["code"].get<int>(); };
  EXPECT_EQ(code(editor_.ask("initialize", Json::object())), -32600);
  EXPECT_EQ(code(editor_.ask("textDocument/unknown", Json::object())), -32601);
  EXPECT_EQ(code(editor_.ask("textDocument/hover", Json::object())), -32602);
  open("own.gdl", baskets);
  EXPECT_EQ(code(editor_.ask("textDocument/hover",
                             {{"textDocument", {{"uri", uri("own.gdl")}}}, {"position", 7}})),
            -32602);
  Random random(5);
  const std::string good =
      json_text({{"jsonrpc", "2.0"},
                 {"id", "x"},
                 {"method", "textDocument/hover"},
                 {"params", asked_of(uri("own.gdl"), {{"line", 1}, {"character", 2}})}});
  for (int i = 0; i < 500; ++i) {
    std::string bad = good;
    for (int k = 0; k < 3; ++k)
      bad[random.below(bad.size())] = static_cast<char>(random.below(256));
    editor_.server().receive(bad);
  }
  for (const char* odd :
       {"", "7", "[]", "null", "{\"id\":3}", "{\"method\":7,\"id\":1}",
        "{\"method\":\"textDocument/didOpen\"}",
        "{\"method\":\"textDocument/didChange\",\"params\":{\"contentChanges\":[{}]}}"}) {
    editor_.server().receive(odd);
  }
  EXPECT_TRUE(
      editor_
          .result("textDocument/hover", asked_of(uri("own.gdl"), {{"line", 1}, {"character", 2}}))
          .is_object());
  EXPECT_EQ(editor_.result("shutdown", nullptr), Json());
  EXPECT_EQ(code(editor_.ask("textDocument/hover", Json::object())), -32600);
  EXPECT_FALSE(editor_.server().ended());
  editor_.tell("exit", nullptr);
  EXPECT_TRUE(editor_.server().ended() && editor_.server().ended_in_order());
}

TEST(LanguageServerUnits, AreThoseThatWereAgreedOn) {
  for (const char* units : {"utf-8", "utf-16", "utf-32"}) {
    Editor editor;
    editor.begin({{"general", {{"positionEncodings", {units}}}}});
    const std::string text = "; 🍎\n(role east) (odd 🍎 ?x)\n";
    editor.open("file:///none/own.gdl", text);
    const std::map<std::string, int> column{{"utf-8", 21}, {"utf-16", 19}, {"utf-32", 18}};
    const Json hover = editor.result(
        "textDocument/documentHighlight",
        asked_of("file:///none/own.gdl", {{"line", 1}, {"character", column.at(units) + 1}}));
    ASSERT_EQ(hover.size(), 1u) << units;
    EXPECT_EQ(hover[0]["range"]["start"]["character"], column.at(units) + 1) << units;
  }
}

TEST(LanguageServerPaths, AreThoseOfTheFiles) {
  EXPECT_EQ(path_of("file:///a%20b/%C3%A4.gdl"), "/a b/ä.gdl");
  EXPECT_EQ(uri_of("/a b/ä.gdl"), "file:///a%20b/%C3%A4.gdl");
  EXPECT_EQ(path_of("untitled:1"), "untitled:1");
}

std::string framed(const std::string& message) {
  return "Content-Length: " + std::to_string(message.size()) + "\r\n\r\n" + message;
}

TEST(LanguageServerCommand, SpeaksTheProtocolOverItsStreams) {
  const auto result = testing::run_orchard(
      {"language-server"},
      framed(R"({"jsonrpc":"2.0","id":1,"method":"initialize","params":{"capabilities":{}}})") +
          framed(R"({"jsonrpc":"2.0","method":"initialized","params":{}})") +
          framed(R"({"jsonrpc":"2.0","id":2,"method":"shutdown"})") +
          framed(R"({"jsonrpc":"2.0","method":"exit"})"));
  EXPECT_EQ(result.status, 0) << result.err;
  EXPECT_EQ(result.err, "");
  EXPECT_THAT(result.out, StartsWith("Content-Length: "));
  EXPECT_THAT(result.out, HasSubstr(R"("positionEncoding":"utf-16")"));
  EXPECT_THAT(result.out,
              ::testing::EndsWith(
                  "Content-Length: 38\r\n\r\n{\"jsonrpc\":\"2.0\",\"id\":2,\"result\":null}"));
}

TEST(LanguageServerCommand, SaysWhatIsWrongWithItsInput) {
  const auto said = [](const std::string& input) {
    const auto result = testing::run_orchard({"language-server"}, input);
    EXPECT_EQ(result.status, 2);
    return result.err;
  };
  EXPECT_THAT(said(""), HasSubstr("the input ended before shutdown and exit"));
  EXPECT_THAT(said("hello"), HasSubstr("the input ends within a header"));
  EXPECT_THAT(said("Content-Type: x\r\n\r\n{}"), HasSubstr("no Content-Length"));
  EXPECT_THAT(said("Content-Length: 99\r\n\r\n{}"), HasSubstr("ends within a message"));
  EXPECT_THAT(said("Content-Length: 99999999999\r\n\r\n{}"), HasSubstr("too long"));
  EXPECT_THAT(said(std::string(9000, 'x')), HasSubstr("no header"));
}

}  // namespace
}  // namespace orchard::language_server
