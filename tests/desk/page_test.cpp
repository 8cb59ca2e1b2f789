// The page of the desk in a real browser, as its users see it. Skipped where no browser is
// installed (scripts/setup chromium chromium-driver).
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <csignal>
#include <filesystem>
#include <fstream>
#include <regex>
#include <thread>

#include "desk/server.hpp"
#include "support/browser.hpp"
#include "support/files.hpp"

namespace orchard::desk::page_test {
namespace {

using testing::Browser;
using ::testing::HasSubstr;
using ::testing::StartsWith;

// The scripts of the tests, in the words of the page.
const std::string click_place = R"(
  const root = document.getElementById('board').shadowRoot;
  const place = [...root.querySelectorAll('.place')].find((one) => one.dataset.words === arguments[0]);
  if (!place) return null;
  place.dispatchEvent(new MouseEvent('click', {bubbles: true}));
  return place.getAttribute('aria-label');)";
const std::string says =
    "return document.getElementById(arguments[0]).textContent.includes(arguments[1])";
const std::string write_text = R"(
  document.querySelector(`[data-paper=${arguments[0]}]`).click();
  const editor = document.querySelector('.CodeMirror').CodeMirror;
  editor.getDoc().replaceRange(arguments[1], {line: editor.lastLine(), ch: 1e6});)";
const std::string press = "document.getElementById(arguments[0]).click()";

class Page : public ::testing::Test {
 protected:
  void SetUp() override {
    if (!Browser::is_installed()) GTEST_SKIP() << "no browser is installed";
  }
  // Begins the desk for a file of the folder of this test.
  void begin(const std::string& name) {
    desk_ = std::make_unique<Desk>(folder_.path(name), LoadOptions{});
    server_ = std::make_unique<Server>(*desk_);
    ASSERT_TRUE(server_->listen_on(0).empty());
    runs_ = std::jthread([this](const std::stop_token& stop) { server_->run(stop); });
    browser_ = std::make_unique<Browser>();
    browser_->open(server_->address());
    ASSERT_TRUE(browser_->wait_for("return document.title !== 'Desk'"));
  }
  void begin_small_espalier() {
    std::string rules = testing::read_file(testing::game_path("espalier"));
    for (const std::string size : {"(#let rows 4)", "(#let columns 5)"}) {
      const std::size_t at = rules.rfind(size);  // the first stands in a comment
      ASSERT_NE(at, std::string::npos);
      rules[at + size.size() - 2] = '3';
    }
    folder_.write("own.gdl", rules);
    begin("own.gdl");
  }
  void TearDown() override {
    if (!browser_) return;
    EXPECT_EQ(browser_->errors(), Json::array());
    browser_.reset();
    runs_.request_stop();
    runs_.join();
  }
  Browser& page() { return *browser_; }
  bool wait(const std::string& id, const std::string& text) {
    return page().wait_for(says, {id, text});
  }

  testing::TemporaryFolder folder_;
  std::unique_ptr<Desk> desk_;
  std::unique_ptr<Server> server_;
  std::jthread runs_;
  std::unique_ptr<Browser> browser_;
};

TEST_F(Page, PlaysAMatchByClickingAgainstAnOpponent) {
  begin_small_espalier();
  ASSERT_TRUE(wait("state", "ply 0, east to move"));
  page().run(R"(const seat = document.querySelectorAll('#seats select')[1];
                seat.value = 'random'; seat.dispatchEvent(new Event('change'));)");
  page().run(press, {"run"});
  for (int ply = 1; ply < 12; ply += 2) {
    if (page().text_of("state").starts_with("over")) break;
    // The first place with a marked move.
    page().run(R"(const root = document.getElementById('board').shadowRoot;
                  [...root.querySelectorAll('.place')].find((one) => one.dataset.moves !== '')
                    .dispatchEvent(new MouseEvent('click', {bubbles: true}));)");
    ASSERT_TRUE(
        page().wait_for("const state = document.getElementById('state').textContent;"
                        "return state.startsWith('over') || state === arguments[0]",
                        {"ply " + std::to_string(ply + 1) + ", east to move"}))
        << page().text_of("state");
  }
  EXPECT_THAT(page().text_of("state"), StartsWith("over: "));
  // Back along the line, and on again.
  page().run(press, {"begin"});
  EXPECT_TRUE(wait("state", "ply 0, east to move"));
  page().run(press, {"on"});
  EXPECT_TRUE(wait("state", "ply 1, west to move"));
}

TEST_F(Page, SaysWhyAClickMakesNoMove) {
  begin_small_espalier();
  ASSERT_TRUE(wait("state", "ply 0"));
  EXPECT_EQ(page().run(click_place, {"3 2"}), "3 2: blank");
  EXPECT_TRUE(wait("said", "(tie 3 2) is not legal: it would need (within_reach 3 2)"));
  EXPECT_EQ(page().text_of("state"), "ply 0, east to move");
}

TEST_F(Page, ShowsWhatIsTypedAtOnce) {
  begin_small_espalier();
  ASSERT_TRUE(wait("state", "ply 0"));
  page().run(click_place, {"1 1"});
  ASSERT_TRUE(wait("state", "ply 1, west to move"));
  page().run(
      "document.querySelector('.CodeMirror').CodeMirror.focus();"
      "document.querySelector('.CodeMirror').CodeMirror.execCommand('goDocEnd')");
  page().type("(role north)");
  EXPECT_TRUE(wait("seats", "north"));
  page().type("(role");
  EXPECT_TRUE(wait("state", "does not read"));
  EXPECT_TRUE(page().run("return document.getElementById('board').classList.contains('stale')"));
  EXPECT_TRUE(wait("saved", "not saved: rules"));
}

TEST_F(Page, GrowsAGameFromAnEmptyFile) {
  begin("watering.gdl");
  ASSERT_TRUE(wait("state", "does not read"));
  // The files of the tutorial about cases, in its order.
  const std::string tutorial = testing::read_file(testing::source_path("docs/TESTING.md"));
  const std::regex block("```gdl watering\\.(gdl|cases)( more)?\n([^`]*)```");
  int blocks = 0;
  for (std::sregex_iterator at(tutorial.begin(), tutorial.end(), block), end; at != end; ++at) {
    const std::string paper = (*at)[1] == "gdl" ? "rules" : "cases";
    page().run(write_text, {paper, "\n" + (*at)[3].str()});
    ++blocks;
  }
  ASSERT_GE(blocks, 4);
  EXPECT_TRUE(wait("state", "ply 0, ann to move")) << page().text_of("findings");
  EXPECT_TRUE(wait("cases-count", "✓ 5"));
  page().run(press, {"save"});
  EXPECT_TRUE(page().wait_for("return document.getElementById('saved').textContent === 'saved'"));
  EXPECT_THAT(testing::read_file(folder_.path("watering.gdl")), HasSubstr("(role ann)"));
  EXPECT_THAT(testing::read_file(folder_.path("watering.cases")),
              HasSubstr("the last one to water wins"));
  page().run(click_place, {"2"});
  EXPECT_TRUE(wait("state", "ply 1, ben to move"));
  page().run("document.querySelector('[data-tool=check-tool]').click()");
  page().run(press, {"check-begin"});
  EXPECT_TRUE(wait("check-state", "which are all"));
  EXPECT_THAT(page().text_of("answers"), HasSubstr("every line of play ends"));
}

TEST_F(Page, NeverWritesOverAChangeFromOutside) {
  const std::string path = folder_.write("own.gdl", "(role ann)\n");
  begin("own.gdl");
  ASSERT_TRUE(wait("state", "to move"));
  page().run(write_text, {"rules", "(init (a b))"});
  std::ofstream(path) << "(role ben)\n";
  page().run(press, {"save"});
  EXPECT_TRUE(wait("notice", "changed by somebody else"));
  EXPECT_EQ(testing::read_file(path), "(role ben)\n");
  // Whatever happens to the page, what was typed is offered again.
  EXPECT_TRUE(page().wait_for("return document.getElementById('saved').textContent !== 'saved'"));
  const std::string kept = folder_.path(".own.gdl.unsaved");
  for (int i = 0; i < 600 && !std::filesystem::exists(kept); ++i) {
    std::this_thread::sleep_for(std::chrono::milliseconds(50));
  }
  page().run("window.onbeforeunload = null");
  browser_ = std::make_unique<Browser>();
  page().open(server_->address());
  EXPECT_TRUE(wait("notice", "typed and not saved"));
}

TEST_F(Page, StandsTwoHundredQuickEdits) {
  begin_small_espalier();
  ASSERT_TRUE(wait("state", "ply 0"));
  page().run(R"(const editor = document.querySelector('.CodeMirror').CodeMirror;
                for (let i = 0; i < 200; ++i) {
                  editor.getDoc().replaceRange('(spare ' + i + ')', {line: editor.lastLine(), ch: 1e6});
                })");
  page().run(write_text, {"rules", "(role last)"});
  EXPECT_TRUE(wait("seats", "last"));
  EXPECT_TRUE(wait("state", "ply 0"));
  EXPECT_TRUE(page().run(
      "return document.querySelector('.CodeMirror').CodeMirror.getValue().includes('(spare "
      "199)')"));
}

const std::string take_seat = R"(
  const seat = document.querySelector(`#seats select[data-role=${arguments[0]}]`);
  seat.value = arguments[1];
  seat.dispatchEvent(new Event('change'));)";
const std::string first_marked = R"(
  const root = document.getElementById('board').shadowRoot;
  const place = [...root.querySelectorAll('.place')].find((one) => one.dataset.moves !== '');
  if (place) place.dispatchEvent(new MouseEvent('click', {bubbles: true}));
  return Boolean(place);)";

// Two persons in two windows of their own play a whole game, watched by the desk.
TEST_F(Page, SeatsPlayInTheirOwnWindows) {
  begin_small_espalier();
  ASSERT_TRUE(wait("state", "ply 0"));
  page().run(take_seat, {"east", "window"});
  page().run(take_seat, {"west", "window"});
  ASSERT_TRUE(page().wait_for("return document.querySelectorAll('#seats a').length === 3"));
  const Json links =
      page().run("return [...document.querySelectorAll('#seats a')].map((a) => a.href)");
  Browser east;
  Browser west;
  east.open(links[0]);
  west.open(links[1]);
  for (int ply = 0; ply < 9; ++ply) {
    Browser& mover = ply % 2 == 0 ? east : west;
    ASSERT_TRUE(
        mover.wait_for("const state = document.getElementById('state').textContent;"
                       "return state.startsWith('over') || state === arguments[0]",
                       {"ply " + std::to_string(ply) + ": choose a move"}))
        << mover.text_of("state");
    if (mover.text_of("state").starts_with("over")) break;
    EXPECT_TRUE(mover.run(first_marked));
  }
  EXPECT_TRUE(wait("state", "over: ")) << page().text_of("state") << page().text_of("said")
                                       << east.text_of("state") << west.text_of("state");
  EXPECT_TRUE(
      west.wait_for("return document.getElementById('state').textContent.startsWith('over')"));
  EXPECT_TRUE(wait("score", "1 game: east "));
  EXPECT_EQ(east.errors(), Json::array());
  EXPECT_EQ(west.errors(), Json::array());
}

TEST_F(Page, KeepsWhatIsLeftAsABranch) {
  begin_small_espalier();
  ASSERT_TRUE(wait("state", "ply 0"));
  page().run(click_place, {"1 1"});
  ASSERT_TRUE(wait("state", "ply 1"));
  page().run(click_place, {"1 2"});
  ASSERT_TRUE(wait("state", "ply 2"));
  page().run(press, {"back"});
  ASSERT_TRUE(wait("state", "ply 1"));
  EXPECT_EQ(page().text_of("branches"), "");
  page().run(click_place, {"1 3"});
  ASSERT_TRUE(wait("branches", "from ply 1: (tie 1 2) … 2 plies"));
  page().run("document.querySelector('#branches button').click()");
  ASSERT_TRUE(wait("branches", "(tie 1 3)"));
  EXPECT_TRUE(page().wait_for(
      "return [...document.getElementById('board').shadowRoot.querySelectorAll('.place')]"
      ".find((one) => one.dataset.words === '1 2').getAttribute('aria-label') !== '1 2: blank'"));
}

TEST_F(Page, MendsWhatWasFoundByAKey) {
  begin_small_espalier();
  ASSERT_TRUE(wait("state", "ply 0"));
  const std::string good =
      page().run("return document.querySelector('.CodeMirror').CodeMirror.getValue()");
  page().run(R"(const editor = document.querySelector('.CodeMirror').CodeMirror;
                const at = editor.posFromIndex(editor.getValue().indexOf('(touches ?row') + 8);
                editor.replaceRange('s', at);)");
  ASSERT_TRUE(wait("findings", "write touches instead of touchess"));
  page().run(
      "document.dispatchEvent(new KeyboardEvent('keydown', {key: 'Enter', altKey: true, bubbles: "
      "true}))");
  EXPECT_TRUE(page().wait_for("return document.getElementById('findings').textContent === ''"));
  EXPECT_EQ(page().run("return document.querySelector('.CodeMirror').CodeMirror.getValue()"), good);
}

TEST_F(Page, TellsWhatANameIsAndCompletesIt) {
  begin_small_espalier();
  ASSERT_TRUE(wait("state", "ply 0"));
  page().run(R"(const editor = document.querySelector('.CodeMirror').CodeMirror;
                const at = editor.posFromIndex(editor.getValue().indexOf('(within_reach') + 3);
                editor.focus(); editor.setCursor(at); editor.getOption('extraKeys').F1();)");
  EXPECT_TRUE(wait("insight", "(within_reach ?row ?column)"));
  page().run(R"(const editor = document.querySelector('.CodeMirror').CodeMirror;
                editor.setCursor({line: editor.lastLine(), ch: 1e6});
                editor.replaceSelection('\n(<= (next (');
                editor.getOption('extraKeys')['Ctrl-Space']();)");
  EXPECT_TRUE(
      page().wait_for("return [...document.querySelectorAll('.CodeMirror-hint')].some((one) => "
                      "one.textContent.startsWith('square'))"));
}

// The desk is killed in the middle of writing, and begun again.
TEST_F(Page, LosesNothingWhenTheDeskIsKilled) {
  folder_.write("own.gdl", testing::read_file(testing::game_path("snails")));
  // However the test ends, no desk stays behind.
  struct Process {
    pid_t id = 0;
    ~Process() { end(SIGINT); }
    void end(int signal) {
      if (id == 0) return;
      kill(id, signal);
      waitpid(id, nullptr, 0);
      id = 0;
    }
  } process;
  const auto begin_desk = [&] {
    int ends[2];
    EXPECT_EQ(pipe(ends), 0);
    process.id = fork();
    if (process.id == 0) {
      dup2(ends[1], STDOUT_FILENO);
      execl(ORCHARD_COMMAND, "orchard", "desk", folder_.path("own.gdl").c_str(),
            static_cast<char*>(nullptr));
      _exit(127);
    }
    close(ends[1]);
    std::string text;
    char c = 0;
    while (std::count(text.begin(), text.end(), '\n') < 2 && read(ends[0], &c, 1) == 1) text += c;
    close(ends[0]);
    const std::size_t begin = text.find("http");
    return text.substr(begin, text.find('\n', begin) - begin);
  };
  Browser browser;
  browser.open(begin_desk());
  ASSERT_TRUE(browser.wait_for(says, {"state", "ply 0"}));
  browser.run(write_text, {"rules", "(precious 1)"});
  const std::string kept = folder_.path(".own.gdl.unsaved");
  for (int i = 0; i < 600 && !std::filesystem::exists(kept); ++i) {
    std::this_thread::sleep_for(std::chrono::milliseconds(50));
  }
  process.end(SIGKILL);
  Browser again;
  again.open(begin_desk());
  ASSERT_TRUE(again.wait_for(says, {"notice", "typed and not saved"}));
  again.run("document.querySelector('#notice button').click()");
  EXPECT_TRUE(again.wait_for(
      "return document.querySelector('.CodeMirror').CodeMirror.getValue().includes('(precious "
      "1)')"));
  browser.run("window.onbeforeunload = null");
}

}  // namespace
}  // namespace orchard::desk::page_test
