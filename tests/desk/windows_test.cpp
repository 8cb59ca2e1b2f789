// Windows for seats: what they show, what they are told, and what nobody is.
#include <gmock/gmock.h>

#include "desk/desk_fixture.hpp"
#include "orchard/random.hpp"
#include "orchard/view.hpp"

namespace orchard::desk::windows_test {
namespace {

using ::testing::HasSubstr;

class Windows : public DeskTest {
 protected:
  // The address of a window, below the address of the server.
  Json at_window(const std::string& token, const std::string& verb,
                 const Json& request = Json::object()) {
    const auto answer =
        client_->Post("/" + token + "/ask/" + verb, request.dump(), "application/json");
    EXPECT_TRUE(answer && answer->status == 200) << verb;
    return answer ? Json::parse(answer->body) : Json();
  }
};

TEST_F(Windows, AreReachedByTheirOwnSecretAlone) {
  Json request = small_espalier();
  request["seats"] = {"east"};
  const Json table = ask("table", request);
  const std::string token = table["seats"]["east"];
  EXPECT_THAT(client_->Get("/" + token + "/")->body, HasSubstr("<title>Seat</title>"));
  for (const char* name : {"seat.js", "board.js", "desk.css"}) {
    EXPECT_EQ(client_->Get("/" + token + "/" + name)->status, 200) << name;
  }
  for (const char* name : {"index.html", "desk.js", "editor/lib/codemirror.js"}) {
    EXPECT_EQ(client_->Get("/" + token + "/" + name)->status, 404) << name;
  }
  for (const char* verb : {"open", "save", "why", "table", "relation"}) {
    EXPECT_THAT(at_window(token, verb)["error"].get<std::string>(),
                HasSubstr("a seat does not know"));
  }
  EXPECT_EQ(client_->Get("/0123456789abcdef/")->status, 404);
  EXPECT_EQ(client_->Post("/0123456789abcdef/ask/look", "{}", "application/json")->status, 404);
}

TEST_F(Windows, ChooseForTheirRoleWhenItIsItsTurn) {
  Json request = small_espalier();
  request["seats"] = {"east", "west"};
  const Json table = ask("table", request);
  const std::string east = table["seats"]["east"];
  const std::string west = table["seats"]["west"];
  const Json seen = at_window(east, "look");
  EXPECT_EQ(seen["moves"].size(), 3u);
  EXPECT_EQ(at_window(east, "look", {{"seen", seen["version"]}}).size(), 1u) << "nothing is new";
  EXPECT_TRUE(at_window(west, "look")["moves"].empty());
  EXPECT_EQ(at_window(west, "choose", {{"move", "(tie 1 1)"}, {"ply", 0}})["error"],
            "(tie 1 1) is not legal now");
  EXPECT_EQ(at_window(east, "choose", {{"move", "(tie 3 3)"}, {"ply", 0}})["error"],
            "(tie 3 3) is not legal now");
  EXPECT_EQ(at_window(east, "choose", {{"move", "(tie 1 1)"}, {"ply", 7}})["error"],
            "play has gone on meanwhile");
  EXPECT_EQ(at_window(east, "choose", {{"move", "(tie 1 1)"}, {"ply", 0}})["chosen"], "(tie 1 1)");
  EXPECT_EQ(at_window(east, "choose", {{"move", "(tie 1 2)"}, {"ply", 0}})["error"],
            "you have chosen already");
  EXPECT_EQ(ask("table", request)["choices"], (Json{{"east", "(tie 1 1)"}}));
  // What was chosen is over when play has gone on.
  request["line"] = {ply("(tie 1 1)", "wait")};
  EXPECT_EQ(ask("table", request)["chosen"], Json::array());
  EXPECT_EQ(at_window(west, "look")["ply"], 1);
  EXPECT_GT(at_window(west, "look")["moves"].size(), 1u);
}

TEST_F(Windows, TellNobodyWhatWasChosenBeforeAllAreIn) {
  Json request = game("market_day");
  const Game rules = *Game::load(testing::game_path("market_day"));
  std::vector<Role> choosing;
  for (const Role& role : rules.roles()) {
    if (rules.legal(rules.initial(), role).size() > 1) choosing.push_back(role);
  }
  ASSERT_GE(choosing.size(), 2u);
  for (const Role& role : choosing) request["seats"].push_back(role.name());
  const Json table = ask("table", request);
  const std::string chosen = rules.legal(rules.initial(), choosing[0]).back().to_string();
  at_window(table["seats"][choosing[0].name()], "choose", {{"move", chosen}, {"ply", 0}});
  const Json meanwhile = ask("table", request);
  EXPECT_EQ(meanwhile["chosen"], Json::array({choosing[0].name()}));
  EXPECT_FALSE(meanwhile.contains("choices"));
  Json other = at_window(table["seats"][choosing[1].name()], "look");
  EXPECT_EQ(other["chosen"], Json::array({choosing[0].name()}));
  other.erase("moves");
  other.erase("svg");  // marks its own moves
  EXPECT_EQ(other.dump().find(chosen), std::string::npos);
  EXPECT_EQ(at_window(table["onlookers"], "look").dump().find(chosen), std::string::npos);
  for (std::size_t i = 1; i < choosing.size(); ++i) {
    const std::string move = rules.legal(rules.initial(), choosing[i]).front().to_string();
    at_window(table["seats"][choosing[i].name()], "choose", {{"move", move}, {"ply", 0}});
  }
  EXPECT_EQ(ask("table", request)["choices"].size(), choosing.size());
}

// Lines of play that a role cannot tell apart by what the rules tell it look the same in its
// window, and all of them look the same to onlookers.
TEST_F(Windows, ShowNoSecrets) {
  std::size_t compared = 0;
  for (const char* name : {"hedgerow", "cellar"}) {
    const Game rules = *Game::load(testing::game_path(name));
    ASSERT_TRUE(rules.has_hidden_information());
    Json request = game(name);
    for (const Role& role : rules.roles()) {
      if (!role.is_chance()) request["seats"].push_back(role.name());
    }
    std::map<std::string, Json> known;  // what was shown, by role and what it was told
    for (std::uint64_t seed = 1; seed <= 40; ++seed) {
      Random random(seed);
      Line line{{rules.initial()}, {}};
      std::vector<View> views;
      for (const Role& role : rules.roles()) views.emplace_back(rules, role);
      Json plies = Json::array();
      for (int i = 0; i < 3 && !rules.terminal(line.last()); ++i) {
        JointMove joint;
        Json made = Json::object();
        for (const Role& role : rules.roles()) {
          const auto legal = rules.legal(line.last(), role);
          const Move& move = legal[random.below(std::min<std::size_t>(legal.size(), 3))];
          joint.add(move);
          made[role.name()] = move.to_string();
        }
        for (View& view : views) ASSERT_TRUE(view.advance(line.last(), joint).empty());
        line.positions.push_back(*rules.next(line.last(), joint));
        line.joints.push_back(joint);
        plies.push_back(made);
      }
      if (rules.terminal(line.last())) continue;
      request["line"] = plies;
      const Json table = ask("table", request);
      for (const View& view : views) {
        if (view.role().is_chance()) continue;
        std::string told = name + view.role().name();
        for (const View::Step& step : view.steps()) {
          told += "\n" + step.own_move.to_string() + ":";
          for (const Term& percept : step.percepts) told += " " + percept.to_string();
          for (const Term& move : step.legal) told += " " + move.to_string();
          for (const Role& role : step.to_move) told += " " + role.name();
        }
        Json shown = at_window(table["seats"][view.role().name()], "look");
        shown.erase("version");
        const auto [before, is_new] = known.try_emplace(told, shown);
        compared += is_new ? 0 : 1;
        EXPECT_EQ(before->second, shown) << told;
      }
      Json onlookers = at_window(table["onlookers"], "look");
      EXPECT_FALSE(onlookers.contains("svg"));
    }
  }
  EXPECT_GT(compared, 20u);
}

TEST_F(Windows, ShowEverythingWhenTheGameIsOver) {
  const Game rules = *Game::load(testing::game_path("cellar"));
  Random random(5);
  Json request = game("cellar");
  request["line"] = Json::array();
  Position position = rules.initial();
  while (!rules.terminal(position)) {
    JointMove joint;
    Json made = Json::object();
    for (const Role& role : rules.roles()) {
      const auto legal = rules.legal(position, role);
      joint.add(legal[random.below(legal.size())]);
      made[role.name()] = joint[role].to_string();
    }
    position = *rules.next(position, joint);
    request["line"].push_back(made);
  }
  const Json seen = at_window(ask("table", request)["onlookers"], "look");
  EXPECT_TRUE(seen["over"]);
  EXPECT_TRUE(seen.contains("svg"));
  EXPECT_TRUE(seen.contains("outcome"));
}

}  // namespace
}  // namespace orchard::desk::windows_test
