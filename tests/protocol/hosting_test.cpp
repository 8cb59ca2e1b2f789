// Matches between players at addresses: good ones, bad ones, and ones that go away.
#include "protocol/hosted_series.hpp"

#include <fmt/core.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <httplib.h>
#include <netinet/in.h>
#include <sys/socket.h>
#include <unistd.h>

#include <thread>

#include "orchard/random.hpp"
#include "protocol/board_server.hpp"
#include "protocol/message_server.hpp"
#include "protocol/player.hpp"
#include "protocol/remote_seat.hpp"
#include "protocol/small_games.hpp"
#include "support/files.hpp"

namespace orchard::protocol {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;

// A player at an address of its own, for as long as it lives.
class Served {
 public:
  explicit Served(MessageServer::Handler handler, const std::string& where = "0")
      : server_(std::move(handler), 1u << 20, 64) {
    EXPECT_TRUE(server_.listen_on(http::read_address(where).value()).empty());
    thread_ = std::jthread([this](const std::stop_token& stop) { server_.run(stop); });
  }
  std::string address() const { return server_.address(); }

 private:
  MessageServer server_;
  std::jthread thread_;
};

// One of our own.
class OwnPlayer {
 public:
  explicit OwnPlayer(const std::string& who, const std::string& where = "0")
      : player_(options_for(who)),
        served_([this](const std::string& body) { return player_.answer(body); }, where) {}
  std::string address() const { return served_.address(); }
  Player& player() { return player_; }

 private:
  static PlayerOptions options_for(const std::string& who) {
    PlayerOptions options;
    options.make = [who](const Game&, const Role&, std::uint64_t seed) {
      return make_opponent(who, seed);
    };
    return options;
  }
  Player player_;
  Served served_;
};

// What a player that is not ours says.
Reply simple_reply(const std::string& body, const std::string& move) {
  if (body.starts_with("(start")) return {200, "ready"};
  if (body.starts_with("(play")) return {200, move};
  return {200, "done"};
}

class Hosting : public ::testing::Test {
 protected:
  HostedMatch host(const Game& game, const std::string& rules,
                   const std::map<std::string, std::string>& seats, double play_seconds = 2) {
    RefereeOptions options;
    options.rules = rules;
    options.start_seconds = 2;
    options.play_seconds = play_seconds;
    options.record = folder_.path("match.jsonl");
    options.record_positions = true;
    std::map<std::string, SeatedPlayer> players;
    for (const auto& [role, who] : seats) {
      players[role] = {"player of " + role, who, {}};
      if (who.starts_with("http")) continue;
      players[role].make = [who](std::uint64_t seed) { return make_opponent(who, seed).value(); };
    }
    auto match = host_match(game, players, options, watchdogs_);
    EXPECT_TRUE(match) << match.diagnostics().render();
    const MatchRecord record = read_record(options.record).value();
    EXPECT_EQ(record.joints, match->record.joints);
    const Diagnostics faults = verify_record(game, record);
    EXPECT_TRUE(faults.empty()) << faults.render();
    return *match;
  }
  std::string why(const HostedMatch& match, std::size_t ply, const std::string& role) {
    const auto& replaced = match.record.notes.at(ply).replaced;
    const auto found = replaced.find(role);
    return found == replaced.end() ? "" : found->second.why;
  }

  Watchdogs watchdogs_;
  testing::TemporaryFolder folder_;
  const Game baskets_ = Game::from_text(baskets).value();
};

TEST_F(Hosting, OwnPlayersFinishWithoutFault) {
  OwnPlayer east("careful");
  OwnPlayer west("playouts:50");
  const HostedMatch match =
      host(baskets_, baskets, {{"east", east.address()}, {"west", west.address()}});
  EXPECT_TRUE(match.finished);
  EXPECT_TRUE(match.replaced.empty());
  EXPECT_EQ(match.record.joints.size(), 3u);
  EXPECT_EQ(match.record.end->reason, "terminal");
  EXPECT_EQ(match.record.end->goals,
            (std::map<std::string, std::int64_t>{{"east", 100}, {"west", 0}}));
  EXPECT_EQ(east.player().counts().ended, 1u);
  EXPECT_EQ(match.record.notes[0].seconds.size(), 2u);
}

TEST_F(Hosting, BadAnswersAreReplacedAndWrittenDown) {
  const Served illegal(
      [](const std::string& body) { return simple_reply(body, "(pick nothing)"); });
  const HostedMatch one =
      host(baskets_, baskets, {{"east", illegal.address()}, {"west", "random"}});
  EXPECT_TRUE(one.finished);
  EXPECT_EQ(why(one, 0, "east"), "illegal");
  EXPECT_EQ(one.record.notes[0].replaced.at("east").said, "(pick nothing)");
  EXPECT_EQ(why(one, 0, "west"), "");
  EXPECT_EQ(one.replaced.at("east"), 3u);

  const Served garbage([](const std::string& body) { return simple_reply(body, ")(\x01"); });
  EXPECT_EQ(
      why(host(baskets_, baskets, {{"east", garbage.address()}, {"west", "random"}}), 0, "east"),
      "unreadable");

  const Served huge([](const std::string& body) {
    return simple_reply(body, "(" + std::string(1u << 20, 'x') + ")");
  });
  EXPECT_NE(
      why(host(baskets_, baskets, {{"east", huge.address()}, {"west", "random"}}, 0.3), 0, "east"),
      "");

  const Served slow([](const std::string& body) {
    if (body.starts_with("(play")) std::this_thread::sleep_for(std::chrono::milliseconds(500));
    return simple_reply(body, "wait");
  });
  const HostedMatch late =
      host(baskets_, baskets, {{"east", slow.address()}, {"west", "random"}}, 0.2);
  EXPECT_TRUE(late.finished);
  for (std::size_t ply = 0; ply < 3; ++ply) EXPECT_EQ(why(late, ply, "east"), "late") << ply;
  EXPECT_LT(late.record.notes[0].seconds.at("east"), 0.4);
}

TEST_F(Hosting, NobodyThereIsReplacedToo) {
  const HostedMatch match =
      host(baskets_, baskets, {{"east", "http://127.0.0.1:1"}, {"west", "random"}}, 0.2);
  EXPECT_TRUE(match.finished);
  for (std::size_t ply = 0; ply < 3; ++ply) EXPECT_EQ(why(match, ply, "east"), "unreachable");
}

// A player that answers for a while, is gone with all it knew, and comes back.
TEST_F(Hosting, GoesOnWithAPlayerThatComesBack) {
  auto player = std::make_unique<OwnPlayer>("random");
  const std::string address = player->address();
  int plays = 0;
  // Its middleman loses it before the second move of its own.
  const Served between([&](const std::string& body) -> Reply {
    if (body.starts_with("(play") && ++plays == 3) {
      player = std::make_unique<OwnPlayer>("random");
    }
    return player->player().answer(body);
  });
  const HostedMatch match =
      host(baskets_, baskets, {{"east", between.address()}, {"west", "random"}});
  EXPECT_TRUE(match.finished);
  EXPECT_TRUE(match.replaced.empty()) << "it was asked to begin again within the clock";
  EXPECT_EQ(player->player().counts().begun, 1u);
  EXPECT_GE(plays, 4) << "the message it knew nothing of, and the one after the new start";
}

TEST_F(Hosting, AndWhereSomethingIsHidden) {
  const Game game = Game::from_text(hiding).value();
  auto player = std::make_unique<OwnPlayer>("random");
  int plays = 0;
  const Served between([&](const std::string& body) -> Reply {
    if (body.starts_with("(play") && ++plays == 3) {
      player = std::make_unique<OwnPlayer>("random");
    }
    return player->player().answer(body);
  });
  const HostedMatch match = host(game, hiding, {{"finder", between.address()}});
  EXPECT_TRUE(match.finished);
  EXPECT_TRUE(match.replaced.empty());
}

TEST_F(Hosting, RulesWithAnotherStartAreTheSameGameFromThere) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  const std::string rules = rules_on_the_wire(testing::game_path("espalier_3x3"), {}).value();
  const Position there =
      game.next(game.initial(), game.joint_move(game.initial(), game.roles()[0],
                                                game.legal(game.initial(), game.roles()[0])[0])
                                    .value())
          .value();
  const Game from_there = Game::from_text(rules_from(rules, there)).value();
  EXPECT_EQ(from_there.initial().fluents(), there.fluents());
  EXPECT_EQ(from_there.roles().size(), game.roles().size());
}

TEST_F(Hosting, ASeriesChangesSeatsAndRates) {
  OwnPlayer good("careful");
  HostedSeriesOptions options;
  options.players = {{"Ada", good.address(), {}},
                     {"Ben", "random", [](std::uint64_t seed) { return random_opponent(seed); }},
                     {"Cleo", "random", [](std::uint64_t seed) { return random_opponent(seed); }}};
  options.games = 4;
  options.at_once = 3;
  options.folder = folder_.path("");
  options.referee.rules = baskets;
  options.referee.match = "series";
  options.referee.play_seconds = 2;
  std::set<std::string> seats_of_ada;
  options.ended = [&](std::uint64_t, const HostedMatch& match) {
    for (const auto& [role, name] : match.record.players) {
      if (name == "Ada") seats_of_ada.insert(role);
    }
  };
  const auto result = host_series(baskets_, options);
  ASSERT_TRUE(result) << result.diagnostics().render();
  EXPECT_EQ(result->games, 12u);
  EXPECT_EQ(seats_of_ada.size(), 2u);
  std::uint64_t results = 0;
  for (const Tally& tally : result->by_player) results += tally.results();
  EXPECT_EQ(results, 24u);
  EXPECT_EQ(result->ratings.size(), 3u);
  std::set<std::vector<std::vector<Term>>> different;
  for (int number = 1; number <= 12; ++number) {
    const auto record = read_record(folder_.path(fmt::format("series-{}.jsonl", number))).value();
    EXPECT_TRUE(verify_record(baskets_, record).empty());
    different.insert(record.joints);
  }
  EXPECT_GT(different.size(), 1u);
  options.players.pop_back();
  options.players.pop_back();
  EXPECT_THAT(host_series(baskets_, options).diagnostics().render(), HasSubstr("1 players for 2"));
}

// Connections that say nothing, or not enough, or no message at all.
TEST_F(Hosting, HalfOpenConnectionsHoldNobodyUp) {
  OwnPlayer player("random");
  const int port = std::stoi(player.address().substr(player.address().rfind(':') + 1));
  std::vector<int> sockets;
  for (int i = 0; i < 20; ++i) {
    const int one = ::socket(AF_INET, SOCK_STREAM, 0);
    sockaddr_in to{};
    to.sin_family = AF_INET;
    to.sin_port = htons(static_cast<std::uint16_t>(port));
    to.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
    ASSERT_EQ(::connect(one, reinterpret_cast<const sockaddr*>(&to), sizeof to), 0);
    const std::string begun =
        i % 2 == 0 ? "" : "POST / HTTP/1.1\r\nContent-Length: 100000\r\n\r\n(";
    EXPECT_EQ(::send(one, begun.data(), begun.size(), 0), static_cast<ssize_t>(begun.size()));
    sockets.push_back(one);
  }
  const HostedMatch match =
      host(baskets_, baskets, {{"east", player.address()}, {"west", "random"}});
  EXPECT_TRUE(match.replaced.empty());
  for (const int one : sockets) ::close(one);

  httplib::Client client("127.0.0.1", port);
  EXPECT_EQ(client.Post("/", {{"Origin", "http://somewhere"}}, "(info)", "text/plain")->status,
            403);
  const auto reply = client.Post("/any/path", "(info)", "text/acl");
  EXPECT_EQ(reply->body, "((name orchard) (status available))");
  EXPECT_EQ(reply->get_header_value("Content-Type"), "text/acl");
  EXPECT_EQ(client.Post("/", std::string(2u << 20, ' '), "text/acl")->status, 413);
}

TEST_F(Hosting, BoardsAreShownAsTheyStand) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  BoardServer board(game, Picture(game));
  ASSERT_TRUE(board.begin(0).empty());
  const int port = std::stoi(board.address().substr(board.address().rfind(':') + 1));
  Match match(game);
  const Role east = game.roles()[0];
  ASSERT_TRUE(
      match.play(game.joint_move(game.initial(), east, game.legal(game.initial(), east)[0]).value())
          .empty());
  board.show(7, match, {{"east", "Ada"}, {"west", "Ben"}});
  httplib::Client client("127.0.0.1", port);
  const std::string now = client.Get("/now?seen=0")->body;
  EXPECT_THAT(now, AllOf(HasSubstr("\"number\":7"), HasSubstr("east: Ada"), HasSubstr("<svg")));
  EXPECT_THAT(client.Get("/now?seen=1")->body, Not(HasSubstr("<svg"))) << "nothing new";
  EXPECT_THAT(client.Get("/")->body, HasSubstr("board.js"));
  client.set_default_headers({{"Host", "elsewhere"}});
  EXPECT_EQ(client.Get("/now")->status, 403);

  const Game hidden = Game::from_text(hiding).value();
  BoardServer closed(hidden, Picture(hidden));
  ASSERT_TRUE(closed.begin(0).empty());
  closed.show(1, Match(hidden), {});
  httplib::Client onlooker("127.0.0.1",
                           std::stoi(closed.address().substr(closed.address().rfind(':') + 1)));
  EXPECT_THAT(onlooker.Get("/now?seen=0")->body, HasSubstr("\"svg\":\"\""));
}

TEST(Addresses, AreReadAsTheyAreWritten) {
  EXPECT_EQ(http::read_address("9147").value().port, 9147);
  EXPECT_EQ(http::read_address("9147").value().host, "127.0.0.1");
  EXPECT_EQ(http::read_address("http://10.0.0.1:80/").value().host, "10.0.0.1");
  for (const char* const wrong : {"", "x", "host:", "host:99999", ":5", "1.2.3.4", "5x"}) {
    EXPECT_FALSE(http::read_address(wrong)) << wrong;
  }
}

}  // namespace
}  // namespace orchard::protocol
