// A player of the match protocol, as a host speaks to it: conversations, clocks, nonsense.
#include "protocol/player.hpp"

#include <fmt/core.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <atomic>
#include <functional>
#include <mutex>
#include <stdexcept>
#include <thread>

#include "orchard/format.hpp"
#include "orchard/match.hpp"
#include "orchard/random.hpp"
#include "protocol/small_games.hpp"
#include "support/files.hpp"

namespace orchard::protocol {
namespace {

using ::testing::AnyOf;
using ::testing::HasSubstr;

PlayerOptions played_by(const std::string& who) {
  PlayerOptions options;
  options.make = [who](const Game&, const Role&, std::uint64_t seed) {
    return make_opponent(who, seed);
  };
  return options;
}

std::string start(const std::string& match, const std::string& role, const std::string& rules,
                  double play_seconds = 2) {
  return start_message(match, role, rules, 10, play_seconds);
}

TEST(Player, AnswersAsPublished) {
  Player player(played_by("careful"));
  const auto says = [&](const std::string& message) {
    const Reply reply = player.answer(message);
    EXPECT_EQ(reply.status, 200) << message << " " << reply.body;
    return reply.body;
  };
  EXPECT_EQ(says("(info)"), "((name orchard) (status available))");
  EXPECT_EQ(says("(preview (" + baskets + ") 5)"), "ready");
  EXPECT_EQ(says(start("m", "west", baskets)), "ready");
  EXPECT_EQ(says("(play m nil)"), "wait");
  // Whoever picks the second one loses: there is a choice, and it does not matter.
  EXPECT_THAT(says("(play m ((pick left) wait))"), AnyOf("(pick middle)", "(pick right)"));
  EXPECT_EQ(says("(PLAY M (WAIT (PICK MIDDLE)))"), "wait");
  EXPECT_EQ(says("(stop m ((pick right) wait))"), "done");
  EXPECT_EQ(player.answer("(play m nil)").status, 404);
  EXPECT_EQ(says(start("n", "east", baskets)), "ready");
  EXPECT_EQ(says("(abort n)"), "aborted");
  const PlayerCounts counts = player.counts();
  EXPECT_EQ(counts.begun, 2u);
  EXPECT_EQ(counts.ended, 2u);
  EXPECT_EQ(counts.moves, 3u);
  EXPECT_EQ(counts.unfinished, 0u);
}

TEST(Player, GivesTheSameAnswerToTheSameMessage) {
  Player player(played_by("random"));
  EXPECT_EQ(player.answer(start("m", "east", baskets)).body, "ready");
  EXPECT_EQ(player.answer(start("m", "east", baskets)).body, "ready") << "said twice";
  const std::string first = player.answer("(play m nil)").body;
  for (int i = 0; i < 5; ++i) EXPECT_EQ(player.answer("(play m nil)").body, first);
  const std::string next = "(play m (" + first + " wait))";
  EXPECT_EQ(player.answer(next).body, "wait");
  EXPECT_EQ(player.answer(next).body, "wait");
  EXPECT_EQ(player.answer("(play m nil)").status, 409) << "that was before";
}

TEST(Player, IsHarmedByNothingThatMakesNoSense) {
  PlayerOptions options = played_by("random");
  options.matches = 2;
  Player player(options);
  EXPECT_EQ(player.answer(start("m", "east", baskets)).body, "ready");
  EXPECT_EQ(player.answer("(play m nil)").status, 200);
  const std::pair<std::string, int> wrong[] = {
      {"", 400},
      {"(play", 400},
      {"(play nobody nil)", 404},
      {"(stop nobody (a b))", 404},
      {"(abort nobody)", 404},
      {"(play m ((pick left)))", 409},       // one move of two
      {"(play m ((pick top) wait))", 409},   // not legal
      {"(play m (wait (pick left)))", 409},  // not theirs to make
      {"(play m 5 (pick left) ())", 409},    // a turn that is not next
      {start("m", "west", baskets), 409},    // another role
      {start("m", "east", baskets + "(basket top)"), 409},
      {start("x", "nobody", baskets), 422},
      {start("x", "east", "(role east) (<= (legal east ?x) (not (bed ?x)))"), 422},
      {start("x", "east", "(wooden chair)"), 422},
  };
  for (const auto& [message, status] : wrong) {
    EXPECT_EQ(player.answer(message).status, status) << message.substr(0, 60);
  }
  EXPECT_EQ(player.answer(start("x", "east", baskets)).body, "ready");
  EXPECT_EQ(player.answer(start("y", "east", baskets)).body, "busy");
  EXPECT_EQ(player.answer("(info)").body, "((name orchard) (status busy))");
  // The first match is where it was.
  EXPECT_EQ(player.answer("(play m ((pick left) wait))").body, "wait");
}

// Of many messages, most of them broken by chance, none breaks anything.
TEST(Player, SurvivesBrokenMessages) {
  Player player(played_by("random"));
  ASSERT_EQ(player.answer(start("m", "east", baskets)).body, "ready");
  const std::vector<std::string> good = {"(info)",
                                         "(play m nil)",
                                         "(play m ((pick left) wait))",
                                         "(play m 3 (pick left) (light))",
                                         start("q", "west", baskets, 0.05),
                                         "(abort q)",
                                         "(preview (" + baskets + ") 1)"};
  Random random(11);
  for (int i = 0; i < 400; ++i) {
    std::string message = good[random.below(good.size())];
    for (std::uint64_t edits = random.below(4); edits > 0; --edits) {
      const std::size_t at = random.below(message.size() + 1);
      const char odd[] = {'(', ')', ' ', '?', '\0', '"', ';', '9', '\xff', '#'};
      if (random.below(2) == 0 && at < message.size()) {
        message.erase(at, 1 + random.below(3));
      } else {
        message.insert(at, 1, odd[random.below(std::size(odd))]);
      }
    }
    const Reply reply = player.answer(message);
    EXPECT_THAT(reply.status, AnyOf(200, 400, 404, 409, 422)) << message;
  }
  (void)player.answer("(abort m)");
  EXPECT_EQ(player.answer(start("last", "west", baskets)).body, "ready");
  EXPECT_EQ(player.answer("(play last nil)").body, "wait");
}

// Thinks for as long as nobody stops it, and longer.
class Dreamer : public Opponent {
 public:
  explicit Dreamer(std::atomic<int>& dreams) : dreams_(dreams) {}
  std::string name() const override { return "dreamer"; }
  Move choose(const Situation& situation) override {
    ++dreams_;
    while (!situation.stop.stop_requested()) {
      std::this_thread::sleep_for(std::chrono::milliseconds(5));
    }
    return situation.legal.front();
  }

 private:
  std::atomic<int>& dreams_;
};

// `make` without arguments: whoever sits in every seat.
PlayerOptions seated(std::function<std::unique_ptr<Opponent>()> make) {
  PlayerOptions options;
  options.make = [make = std::move(make)](const Game&, const Role&, std::uint64_t) {
    return Result<std::unique_ptr<Opponent>>(make());
  };
  return options;
}

TEST(Player, AnswersWithinTheClockWhoeverThinks) {
  std::atomic<int> dreams = 0;
  Player player(seated([&] { return std::make_unique<Dreamer>(dreams); }));
  ASSERT_EQ(player.answer(start("m", "east", baskets, 0.4)).body, "ready");
  const auto begun = std::chrono::steady_clock::now();
  const Reply reply = player.answer("(play m nil)");
  const std::chrono::duration<double> took = std::chrono::steady_clock::now() - begun;
  EXPECT_THAT(reply.body, AnyOf("(pick left)", "(pick middle)", "(pick right)"));
  EXPECT_LT(took.count(), 0.4);
  EXPECT_GT(took.count(), 0.2) << "it may use its time";
  EXPECT_EQ(dreams, 1);
  EXPECT_EQ(player.counts().unfinished, 1u);
  // It goes on beside, and is not asked again before it has ended; the match is not held up.
  EXPECT_EQ(player.answer("(play m (" + reply.body + " wait))").body, "wait");
}

TEST(Player, BreaksThinkingOffWhenTheMatchEnds) {
  std::atomic<int> dreams = 0;
  Player player(seated([&] { return std::make_unique<Dreamer>(dreams); }));
  ASSERT_EQ(player.answer(start("m", "east", baskets, 60)).body, "ready");
  Reply reply;
  std::thread host([&] { reply = player.answer("(play m nil)"); });
  while (dreams == 0) std::this_thread::yield();
  EXPECT_EQ(player.answer("(abort m)").body, "aborted");
  host.join();
  EXPECT_EQ(reply.status, 409);
}

// Fails wherever it is asked.
class Failing : public Opponent {
 public:
  std::string name() const override { return "failing"; }
  Move choose(const Situation&) override { throw std::runtime_error("no idea"); }
  void think_ahead(const Situation&) override { throw std::runtime_error("no idea"); }
  void match_ended(const Game&, const Role&, const Position&) override {
    throw std::runtime_error("no idea");
  }
};

// What opponents throw, as where rules cost too much, ends neither the match nor the process.
TEST(Player, GoesOnWhereAnOpponentFails) {
  std::mutex mutex;
  int told = 0;
  PlayerOptions options = seated([] { return std::make_unique<Failing>(); });
  options.think_ahead = true;
  options.log = [&](const std::string& what, bool) {
    const std::lock_guard lock(mutex);
    told += what.find("an opponent failed: no idea") != std::string::npos ? 1 : 0;
  };
  {
    Player player(options);
    ASSERT_EQ(player.answer(start("m", "east", baskets, 0.3)).body, "ready");
    const std::string move = player.answer("(play m nil)").body;
    EXPECT_THAT(move, AnyOf("(pick left)", "(pick middle)", "(pick right)"));
    EXPECT_EQ(player.answer("(play m (" + move + " wait))").body, "wait");
    EXPECT_EQ(player.answer("(stop m (wait (pick nothing)))").body, "done");
    EXPECT_EQ(player.answer("(info)").body, "((name orchard) (status available))");
  }
  EXPECT_GE(told, 1);
}

// A start that fails halfway gives its place back.
TEST(Player, LosesNoPlaceByAStartThatFails) {
  PlayerOptions options =
      seated([]() -> std::unique_ptr<Opponent> { throw std::runtime_error("nobody comes"); });
  options.matches = 1;
  Player player(options);
  for (int i = 0; i < 3; ++i) EXPECT_ANY_THROW((void)player.answer(start("m", "east", baskets)));
  EXPECT_EQ(player.answer("(info)").body, "((name orchard) (status available))");
}

// Plays a game by messages, a player for each role, and holds every answer against the rules.
void play_by_messages(const Game& game, const std::string& rules, const std::string& who,
                      std::uint64_t plies, bool percepts) {
  PlayerOptions options = played_by(who);
  options.think_ahead = true;
  Player player(options);
  std::vector<Role> seats;
  for (const Role& role : game.roles()) {
    if (!role.is_chance()) seats.push_back(role);
  }
  for (const Role& role : seats) {
    ASSERT_EQ(player.answer(start("m" + role.name(), role.name(), rules)).body, "ready");
  }
  Match match(game);
  Random random(3);
  while (!match.over() && match.ply() < plies) {
    JointMove joint;
    for (const Role& role : game.roles()) {
      const std::vector<Move> legal = game.legal(match.position(), role);
      if (role.is_chance()) {
        joint.add(legal[random.below(legal.size())]);
        continue;
      }
      std::string message;
      const std::string id = "m" + role.name();
      if (percepts) {
        std::optional<Term> own;
        std::vector<Term> seen;
        if (match.ply() > 0) {
          const JointMove& last = match.joints().back();
          own = last[role].term();
          seen = game.percepts(*(match.positions().end() - 2), last, role).value();
        }
        message = play_message(id, match.ply(), own, seen);
      } else {
        std::vector<Term> last;
        if (match.ply() > 0) {
          for (const Move& move : match.joints().back()) last.push_back(move.term());
        }
        message = play_message(id, last);
      }
      const Reply reply = player.answer(message);
      ASSERT_EQ(reply.status, 200) << reply.body << "\n" << message;
      const auto move = move_of_reply(reply.body);
      ASSERT_TRUE(move) << reply.body;
      const Move chosen = game.move(*move);
      ASSERT_NE(std::ranges::find(legal, chosen), legal.end())
          << reply.body << " is not legal for " << role << " at ply " << match.ply();
      joint.add(chosen);
    }
    ASSERT_TRUE(match.play(joint).empty());
  }
  EXPECT_EQ(player.counts().refused, 0u);
}

TEST(Player, KnowsItsLegalMovesByPerceptsAlone) {
  play_by_messages(Game::from_text(hiding).value(), hiding, "playouts:50", 100, true);
}

// Positions that fit are too many to be followed, and are lost sooner or later: what is legal still
// follows from what the role was told.
TEST(Player, KnowsItsLegalMovesWhereNoPositionIsFound) {
  const std::string path = testing::game_path("moles");
  const std::map<std::string, std::int64_t> large{{"rows", 8}, {"columns", 8}, {"moles", 10}};
  const std::string rules =
      format_file(path, {.to = Syntax::prefix, .expand = true, .sizes = large}).value();
  play_by_messages(Game::from_text(rules).value(), rules, "random", 30, true);
}

class ByMessages : public ::testing::TestWithParam<std::string> {};

// Demo games and those of other hands: every answer is legal, in the form that fits.
TEST_P(ByMessages, EveryAnswerIsLegal) {
  const Game game = Game::load(GetParam()).value();
  const std::string rules = format_file(GetParam(), {.to = Syntax::prefix, .expand = true}).value();
  EXPECT_EQ(Game::from_text(rules).value().digest(), game.digest()) << "the same rules arrive";
  const bool hidden = game.has_hidden_information();
  play_by_messages(game, rules, "random", 12, hidden);
  if (!hidden) play_by_messages(game, rules, "playouts:30", 6, false);
}

std::string name_of_game(const ::testing::TestParamInfo<std::string>& path) {
  std::string name = path.param.substr(path.param.rfind('/') + 1);
  name = name.substr(0, name.find('.'));
  return name;
}
INSTANTIATE_TEST_SUITE_P(Demo, ByMessages, ::testing::ValuesIn(testing::demo_games()),
                         name_of_game);
INSTANTIATE_TEST_SUITE_P(Corpus, ByMessages, ::testing::ValuesIn(testing::corpus_games()),
                         name_of_game);

}  // namespace
}  // namespace orchard::protocol
