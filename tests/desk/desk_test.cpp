// What the desk is asked, over HTTP.
#include <gmock/gmock.h>

#include <csignal>
#include <fstream>

#include "desk/desk_fixture.hpp"

namespace orchard::desk::desk_test {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;

TEST_F(DeskTest, GivesThePageAndNothingElse) {
  const auto page = client_->Get(path_);
  ASSERT_TRUE(page);
  EXPECT_EQ(page->status, 200);
  EXPECT_THAT(page->body, HasSubstr("<title>Desk</title>"));
  EXPECT_THAT(page->get_header_value("Content-Security-Policy"), HasSubstr("default-src 'none'"));
  for (const char* name : {"desk.js", "desk.css", "asking.js", "board.js", "editor.js"}) {
    EXPECT_EQ(client_->Get(path_ + name)->status, 200) << name;
  }
  for (const std::string& name : {path_ + "../own.gdl", path_ + "editor/../../../etc/passwd",
                                  path_ + "own.gdl", std::string("/"), std::string("/desk.js")}) {
    EXPECT_EQ(client_->Get(name)->status, 404) << name;
  }
}

TEST_F(DeskTest, AnswersOnlyWhoCameByItsAddress) {
  const std::string ask = path_ + "ask/open";
  EXPECT_EQ(client_->Post(ask, "{}", "application/json")->status, 200);
  const httplib::Headers elsewhere = {{"Origin", "http://elsewhere.example"}};
  EXPECT_EQ(client_->Post(ask, elsewhere, "{}", "application/json")->status, 403);
  const httplib::Headers renamed = {{"Host", "elsewhere.example"}};
  EXPECT_EQ(client_->Get(path_, renamed)->status, 403);
  EXPECT_EQ(client_->Post("/guessed/ask/open", "{}", "application/json")->status, 404);
}

TEST_F(DeskTest, RefusesWhatIsNoRequest) {
  EXPECT_EQ(client_->Post(path_ + "ask/look", "no", "application/json")->status, 400);
  EXPECT_EQ(client_->Post(path_ + "ask/look", "[1]", "application/json")->status, 400);
  EXPECT_THAT(ask("nonsense")["error"].get<std::string>(), HasSubstr("does not know"));
  // Whatever stands where something else is expected.
  for (const char* verb :
       {"look", "strip", "why", "refusal", "relation", "opponent", "cases", "begin", "work", "stop",
        "save", "table", "insight", "completions", "rename", "effect", "position"}) {
    for (const Json& value :
         {Json(7), Json("("), Json::array({1, "x"}), Json::object({{"a", 1}}), Json(nullptr)}) {
      Json request = small_espalier();
      for (const char* name :
           {"line", "make", "drawing", "question", "role", "who", "places", "name", "cases", "what",
            "kind", "seconds", "seats", "paper", "line", "column", "last_good", "move"}) {
        request[name] = value;
      }
      const Json answer = ask(verb, request);
      EXPECT_TRUE(answer.is_object()) << verb;
    }
  }
}

TEST_F(DeskTest, ShowsAPositionAndPlaysOn) {
  Json request = small_espalier();
  Json seen = ask("look", request);
  EXPECT_TRUE(seen["reads"].get<bool>());
  EXPECT_THAT(seen["to_move"], ElementsAre("east"));
  EXPECT_EQ(seen["moves"].size(), 3u);
  EXPECT_THAT(seen["svg"].get<std::string>(), HasSubstr("class=\"place\""));
  EXPECT_THAT(seen["svg"].get<std::string>(), HasSubstr("data-words=\"1 2\""));
  // The move of the one who has a choice is enough.
  request["make"] = {{"east", "(tie 1 1)"}};
  seen = ask("look", request);
  EXPECT_EQ(seen["line"], Json::array({ply("(tie 1 1)", "wait")}));
  EXPECT_THAT(seen["to_move"], ElementsAre("west"));
  // A move that is not legal changes nothing, and says so.
  request["make"] = {{"east", "(tie 3 3)"}};
  seen = ask("look", request);
  EXPECT_TRUE(seen["line"].empty());
  EXPECT_THAT(seen["refused"].get<std::string>(), HasSubstr("east cannot play (tie 3 3) here"));
}

TEST_F(DeskTest, KeepsTheLineAsFarAsItCanStillBePlayed) {
  Json request = small_espalier();
  request["line"] = Json::array({ply("(tie 1 1)", "wait"), ply("wait", "(tie 2 1)")});
  EXPECT_EQ(ask("look", request)["line"].size(), 2u);
  // Without the turn passing, the second ply is not legal any more.
  std::string rules = request["rules"];
  const std::string passing = "(rival east west)";
  rules.replace(rules.find(passing), passing.size(), "(rival east east)");
  request["rules"] = rules;
  const Json seen = ask("look", request);
  EXPECT_EQ(seen["line"].size(), 1u);
  EXPECT_THAT(seen["broke"].get<std::string>(), HasSubstr("ply 2 cannot be played any more"));
  request["rules"] = "(role east";
  const Json broken = ask("look", request);
  EXPECT_FALSE(broken["reads"].get<bool>());
  EXPECT_EQ(broken["findings"][0]["line"], 1);
}

TEST_F(DeskTest, WaitsForEverybodyWhoChoosesAtOnce) {
  Json request = game("market_day");
  const Json first = ask("look", request);
  ASSERT_EQ(first["choosing"].size(), 2u);
  Json make = Json::object();
  for (const Json& move : first["moves"]) {
    if (!make.contains(move["role"])) make[move["role"].get<std::string>()] = move["move"];
  }
  const std::string one = make.begin().key();
  request["make"] = {{one, make[one]}};
  const Json waiting = ask("look", request);
  EXPECT_EQ(waiting["waiting"].size(), 1u);
  EXPECT_NE(waiting["waiting"][0], one);
  EXPECT_TRUE(waiting["line"].empty());
  request["make"] = make;
  EXPECT_EQ(ask("look", request)["line"].size(), 1u);
}

TEST_F(DeskTest, SaysWhyAndWhyNot) {
  Json request = small_espalier();
  request["question"] = "legal east (tie 2 1)";
  const Json why = ask("why", request);
  EXPECT_FALSE(why["holds"].get<bool>());
  EXPECT_THAT(why["text"].get<std::string>(), HasSubstr("within_reach 2 1"));
  EXPECT_FALSE(why["lines"].empty());
  request["role"] = "east";
  request["places"] = {"2 1"};
  EXPECT_THAT(ask("refusal", request)["sentence"].get<std::string>(),
              HasSubstr("(tie 2 1) is not legal: it would need (within_reach 2 1)"));
  request["places"] = {"nowhere"};
  EXPECT_EQ(ask("refusal", request)["sentence"], "No rule makes a move there.");
  request["name"] = "within_reach/2";
  const Json relation = ask("relation", request);
  EXPECT_EQ(relation["rows"].size(), 3u);
  request["name"] = "nothing/2";
  EXPECT_THAT(ask("relation", request)["error"].get<std::string>(), HasSubstr("no relation"));
}

TEST_F(DeskTest, RunsCasesWithTheBoardWhereOneFails) {
  Json request = small_espalier();
  request["cases"] = R"((case "right" (start) (expect (not terminal)))
                        (case "wrong" (start) (expect terminal)))";
  const Json answer = ask("cases", request);
  ASSERT_EQ(answer["cases"].size(), 2u);
  EXPECT_TRUE(answer["cases"][0]["passed"].get<bool>());
  EXPECT_EQ(answer["cases"][1]["failures"][0]["line"], 2);
  EXPECT_THAT(answer["cases"][1]["svg"].get<std::string>(), HasSubstr("<svg"));
  request["cases"] = "(case";
  EXPECT_EQ(ask("cases", request)["findings"][0]["severity"], "error");
}

TEST_F(DeskTest, WorksInTheBackground) {
  Json request = small_espalier();
  request["page"] = "one";
  request["what"] = "check";
  request["seconds"] = 30;
  request["claims"] = R"((claim "east can win" (possible (goal east 100))))";
  EXPECT_EQ(ask("begin", request)["begun"], "check");
  const Json review = result_of("check");
  EXPECT_TRUE(review["complete"].get<bool>());
  EXPECT_EQ(review["claims"][0]["verdict"], "holds");
  request["what"] = "find";
  request["formula"] = "(goal west 100)";
  ask("begin", request);
  EXPECT_TRUE(result_of("find")["found"].get<bool>());
  request["what"] = "values";
  ask("begin", request);
  const Json values = result_of("values");
  ASSERT_EQ(values["values"].size(), 3u);
  EXPECT_EQ(values["values"][0]["value"], 50.0);
  request["what"] = "games";
  request["seconds"] = 0.2;
  ask("begin", request);
  EXPECT_GT(result_of("games")["playouts"].get<int>(), 0);
  EXPECT_EQ(ask("work", {{"page", "another"}, {"what", "check"}})["state"], "none");
}

// Rules without a circuit are checked as far as the first plies go; without any answer it is said
// so.
TEST_F(DeskTest, ChecksRulesWithoutACircuit) {
  Json request = {{"rules", R"((role a) (init (string end)) (legal a (add red)) (legal a (add blue))
      (<= (next (string (bead ?c ?rest))) (does a (add ?c)) (true (string ?rest)))
      (<= terminal (true (string nothing))) (goal a 100))"}};
  request["page"] = "one";
  request["what"] = "check";
  // A busy machine may need longer to come to any ply.
  Json review;
  for (int seconds = 2; seconds < 40 && !review.contains("first_plies"); seconds *= 3) {
    request["seconds"] = seconds;
    ask("begin", request);
    review = result_of("check");
  }
  ASSERT_TRUE(review.contains("first_plies")) << review.dump();
  EXPECT_GT(review["first_plies"].get<int>(), 2) << review.dump();
  EXPECT_FALSE(review["complete"].get<bool>());
  request["seconds"] = 0;
  ask("begin", request);
  const Json nothing = result_of("check");
  EXPECT_TRUE(nothing.contains("findings") || nothing.contains("ended")) << nothing.dump();
}

// Work that would take long ends when it is stopped, and when other work of the kind begins.
TEST_F(DeskTest, StopsWorkWhenAsked) {
  Json request = game("skep");
  request["page"] = "one";
  request["what"] = "check";
  request["seconds"] = 600;
  ask("begin", request);
  EXPECT_EQ(ask("work", request)["state"], "running");
  ask("stop", request);
  EXPECT_TRUE(result_of("check").is_object());
  ask("begin", request);
  Json small = small_espalier();
  small["page"] = "one";
  small["what"] = "check";
  ask("begin", small);
  EXPECT_TRUE(result_of("check")["complete"].get<bool>());
}

TEST_F(DeskTest, LetsOpponentsChoose) {
  Json request = small_espalier();
  request["role"] = "east";
  request["who"] = "perfect";
  EXPECT_THAT(ask("opponent", request)["move"].get<std::string>(), HasSubstr("(tie 1 "));
  request["who"] = "nobody";
  EXPECT_THAT(ask("opponent", request)["error"].get<std::string>(), HasSubstr("nobody"));
}

TEST_F(DeskTest, SavesAndNeverWritesOverOthers) {
  Json opened = ask("open");
  EXPECT_EQ(opened["files"]["rules"]["stamp"], "none");
  const auto save = [&](const std::string& text, const std::string& stamp) {
    return ask("save", {{"kind", "rules"}, {"text", text}, {"stamp", stamp}});
  };
  const Json saved = save("(role a)", "none");
  EXPECT_EQ(testing::read_file(folder_.path("own.gdl")), "(role a)");
  std::ofstream(folder_.path("own.gdl")) << "(role b)";
  const Json conflict = save("(role c)", saved["stamp"]);
  EXPECT_EQ(conflict["conflict"]["text"], "(role b)");
  EXPECT_EQ(testing::read_file(folder_.path("own.gdl")), "(role b)");
  EXPECT_TRUE(save("(role c)", conflict["conflict"]["stamp"]).contains("stamp"));
  EXPECT_EQ(testing::read_file(folder_.path("own.gdl")), "(role c)");
  EXPECT_THAT(ask("save", {{"kind", "../other"}, {"text", "x"}, {"stamp", "none"}})["error"]
                  .get<std::string>(),
              HasSubstr("no file of the kind"));
}

TEST_F(DeskTest, OffersAgainWhatWasNotSaved) {
  EXPECT_FALSE(ask("open").contains("unsaved"));
  ask("keep", {{"text", Json({{"rules", "(role a)"}}).dump()}});
  Desk after_a_crash(folder_.path("own.gdl"), LoadOptions{});
  EXPECT_EQ(after_a_crash.answer("open", Json::object())["unsaved"]["rules"], "(role a)");
  ask("keep", {{"text", ""}});
  EXPECT_FALSE(ask("open").contains("unsaved"));
}

// What names are made of reaches the page as text, never as markup.
TEST_F(DeskTest, EscapesWhatRulesSay) {
  const Json seen = ask("look", {{"rules", R"((role a) (init (cell 1 1 <img/onerror=x>))
      (init (cell 1 2 b)) (init (cell 2 1 b)) (init (cell 2 2 b)) (legal a stay) (goal a 100))"}});
  EXPECT_THAT(seen["svg"].get<std::string>(), ::testing::Not(HasSubstr("<img")));
}

// ---- Help while writing ----

// A few plies of every game, the first move each time, with a board to click on.
TEST_F(DeskTest, PlaysEveryDemoGame) {
  for (const std::string& path : testing::demo_games()) {
    SCOPED_TRACE(path);
    const std::string rules = testing::read_file(path);
    if (rules.find("(#include") != std::string::npos) continue;  // of a file elsewhere
    Json request = {{"rules", rules}, {"line", Json::array()}};
    const std::string drawing = path.substr(0, path.rfind('.')) + ".draw";
    if (std::ifstream(drawing)) request["drawing"] = testing::read_file(drawing);
    for (int plies = 0; plies < 4; ++plies) {
      Json seen = ask("look", request);
      ASSERT_TRUE(seen["reads"]) << seen["findings"].dump();
      EXPECT_TRUE(seen["findings"].empty() && seen["drawing_findings"].empty());
      EXPECT_THAT(seen["svg"].get<std::string>(), HasSubstr("class=\"place\""));
      if (seen["over"]) break;
      Json make = Json::object();
      for (const Json& move : seen["moves"]) {
        const std::string role = move["role"];
        if (!make.contains(role)) make[role] = move["move"];
      }
      request["make"] = make;
      const Json after = ask("look", request);
      ASSERT_EQ(after["line"].size(), request["line"].size() + 1) << after["refused"].dump();
      request["line"] = Json(after["line"]);
      request.erase("make");
    }
  }
}

TEST_F(DeskTest, KnowsWhatANameIsAndGivesItAnother) {
  Json request = game("espalier");
  request["claims"] = testing::read_file(testing::source_path("games/espalier.claims"));
  request["paper"] = "claims";
  const std::string claims = request["claims"];
  const std::size_t at = claims.find("touches");
  request["line"] =
      std::count(claims.begin(), claims.begin() + static_cast<std::ptrdiff_t>(at), '\n');
  request["column"] = at - claims.rfind('\n', at);
  const Json told = ask("insight", request);
  EXPECT_EQ(told["shape"], "(touches ?upper ?column ?lower ?column)");
  EXPECT_THAT(told["lines"].dump(), HasSubstr("At the start true: (touches 2 1 1 1)"));
  EXPECT_EQ(told["made"].size(), 4u);
  request["name"] = "hangs_beside";
  const Json renamed = ask("rename", request)["texts"];
  EXPECT_THAT(renamed["rules"].get<std::string>(), HasSubstr("(<= (hangs_beside ?upper"));
  EXPECT_THAT(renamed["claims"].get<std::string>(), HasSubstr("(hangs_beside ?row ?column"));
  EXPECT_FALSE(renamed.contains("drawing"));
  request["name"] = "wins";
  EXPECT_EQ(ask("rename", request)["error"], "wins is something else here already");
}

TEST_F(DeskTest, CompletesWhatIsTypedWithWhatItKnewBefore) {
  Json request = small_espalier();
  const std::string good = request["rules"];
  const std::string rules = good + "\n(<= (wins ?who) (does ";
  request["last_good"] = good;
  request["rules"] = rules;
  request["paper"] = "rules";
  request["line"] = std::count(rules.begin(), rules.end(), '\n');
  request["column"] = 22;
  std::vector<std::string> names;
  const Json answer = ask("completions", request);
  for (const Json& item : answer["items"]) names.push_back(item["name"]);
  EXPECT_THAT(names, ::testing::IsSupersetOf({"?who", "east", "west"}));
}

TEST_F(DeskTest, OffersToMendWhatWasFound) {
  Json request = small_espalier();
  std::string rules = request["rules"];
  const std::size_t at = rules.find("(touches ?row");
  ASSERT_NE(at, std::string::npos);
  rules.insert(at + 8, "s");
  request["rules"] = rules;
  const Json findings = ask("look", request)["findings"];
  ASSERT_EQ(findings.size(), 1u) << findings.dump(1);
  const Json fix = findings[0]["fixes"][0];
  EXPECT_EQ(fix["title"], "write touches instead of touchess");
  EXPECT_EQ(fix["instead"], "touches");
  EXPECT_EQ(fix["from"]["line"].get<int>() + 1, findings[0]["line"].get<int>());
}

TEST_F(DeskTest, TellsWhatAMoveWouldChangeAndWhatAPositionIs) {
  Json request = small_espalier();
  request["role"] = "east";
  request["move"] = "(tie 1 1)";
  const Json effect = ask("effect", request);
  EXPECT_EQ(effect["gone"], (Json{"(square 1 1 bare)", "(turn east)"}));
  EXPECT_EQ(effect["new"], (Json{"(square 1 1 east)", "(turn west)"}));
  request["line"] = {ply("(tie 1 1)", "wait")};
  const Json position = ask("position", request);
  const std::string form = position["form"];
  request["cases"] = "(case \"there\" " + form + " (expect " +
                     position["formula"].get<std::string>().substr(5) + ")";
  const Json cases = ask("cases", request);
  ASSERT_TRUE(cases.contains("cases")) << cases.dump();
  EXPECT_TRUE(cases["cases"][0]["passed"]) << cases.dump(1);
}

TEST_F(DeskTest, LeavesDiceToThePersonIfAsked) {
  Json request = game("barrow_lane");
  const Game rules = *Game::load(testing::game_path("barrow_lane"));
  const auto chance =
      std::ranges::find_if(rules.roles(), [](const Role& role) { return role.is_chance(); });
  ASSERT_NE(chance, rules.roles().end());
  const auto throws = rules.legal(rules.initial(), *chance);
  ASSERT_GT(throws.size(), 1u);
  request["make"] = Json::object();
  EXPECT_EQ(ask("look", request)["line"].size(), 1u) << "drawn";
  request["dice_by_hand"] = true;
  EXPECT_EQ(ask("look", request)["waiting"], Json::array({chance->name()}));
  request["make"][chance->name()] = throws.back().to_string();
  const Json answer = ask("look", request);
  ASSERT_EQ(answer["line"].size(), 1u);
  EXPECT_EQ(answer["line"][0][chance->name()], throws.back().to_string());
}

}  // namespace
}  // namespace orchard::desk::desk_test
