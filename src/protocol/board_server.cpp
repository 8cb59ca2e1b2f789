#include "protocol/board_server.hpp"

#include <fmt/core.h>
#include <httplib.h>

#include <deque>
#include <mutex>
#include <thread>

#include "base/json.hpp"
#include "http/listening.hpp"
#include "picture/face/frames.hpp"
#include "protocol/board_page.hpp"

namespace orchard::protocol {
namespace {

constexpr std::size_t most_boards = 12;
constexpr std::size_t most_results = 200;

}  // namespace

struct BoardServer::Inner {
  Inner(Game of, Picture by) : game(std::move(of)), picture(std::move(by)) {}

  // A match as it was last seen.
  struct Board {
    Position position;
    std::optional<picture::LastStep> last;
    std::uint64_t ply = 0;
    std::string who;
    std::string result;  // once it has ended
    std::uint64_t version = 0;
    std::string svg;  // of that version; made when it is asked for
    std::uint64_t drawn = 0;
  };

  Json seen_now(std::uint64_t seen);
  std::string svg_of(Board& board) const;

  const Game game;
  const Picture picture;
  httplib::Server server;
  http::Address address;

  std::mutex mutex;                       // guards what follows
  std::map<std::uint64_t, Board> boards;  // by number of the match
  std::deque<std::string> results;        // the last one first
  std::uint64_t version = 0;

  std::thread serving;
};

std::string BoardServer::Inner::svg_of(Board& board) const {
  if (board.drawn == board.version && !board.svg.empty()) return board.svg;
  if (game.has_hidden_information() && board.result.empty()) return {};
  board.svg = picture.svg({picture::frame_of(game, board.position, board.last)});
  board.drawn = board.version;
  return board.svg;
}

// What has changed since a version.
Json BoardServer::Inner::seen_now(std::uint64_t seen) {
  const std::lock_guard lock(mutex);
  Json result = {{"game", game.name()}, {"version", version}};
  Json list = Json::array();
  for (auto& [number, board] : boards) {
    Json one = {
        {"number", number}, {"ply", board.ply}, {"who", board.who}, {"result", board.result}};
    if (board.version > seen) one["svg"] = svg_of(board);
    list.push_back(std::move(one));
  }
  result["boards"] = std::move(list);
  result["results"] = results;
  return result;
}

BoardServer::BoardServer(Game game, Picture picture)
    : inner_(std::make_unique<Inner>(std::move(game), std::move(picture))) {
  httplib::Server& server = inner_->server;
  server.set_tcp_nodelay(true);
  server.set_payload_max_length(1024);
  server.set_default_headers({{"Content-Security-Policy",
                               "default-src 'none'; script-src 'self'; style-src 'self' "
                               "'unsafe-inline'; connect-src 'self'; img-src data:; base-uri "
                               "'none'; form-action 'none'; frame-ancestors 'none'"},
                              {"X-Content-Type-Options", "nosniff"},
                              {"Cache-Control", "no-store"}});
  // Names of other machines that lead here are not answered: pages elsewhere could read along.
  server.set_pre_routing_handler(
      [this](const httplib::Request& request, httplib::Response& response) {
        if ("http://" + request.get_header_value("Host") == http::text_of(inner_->address)) {
          return httplib::Server::HandlerResponse::Unhandled;
        }
        constexpr int forbidden = 403;
        response.status = forbidden;
        return httplib::Server::HandlerResponse::Handled;
      });
  const auto serve = [&](const char* path, std::string_view text, const char* type) {
    server.Get(path, [text, type](const httplib::Request&, httplib::Response& response) {
      response.set_content(std::string(text), type);
    });
  };
  serve("/", board_page, "text/html; charset=utf-8");
  serve("/board.css", board_style, "text/css; charset=utf-8");
  serve("/board.js", board_script, "text/javascript; charset=utf-8");
  server.Get("/now", [this](const httplib::Request& request, httplib::Response& response) {
    const std::string seen = request.get_param_value("seen");
    response.set_content(json_text(inner_->seen_now(std::strtoull(seen.c_str(), nullptr, 10))),
                         "application/json; charset=utf-8");
  });
}

BoardServer::~BoardServer() {
  if (!inner_->serving.joinable()) return;
  // A stop before it listens would be missed.
  while (!inner_->server.is_running()) std::this_thread::yield();
  inner_->server.stop();
  inner_->serving.join();
}

Diagnostics BoardServer::begin(int port) {
  inner_->address.port = port;
  Diagnostics faults = http::listen_on(inner_->server, inner_->address);
  if (!faults.empty()) return faults;
  inner_->serving = std::thread([this] { inner_->server.listen_after_bind(); });
  return faults;
}

std::string BoardServer::address() const {
  return http::text_of(inner_->address) + "/";
}

void BoardServer::show(std::uint64_t number, const Match& match,
                       const std::map<std::string, std::string>& names) {
  std::optional<picture::LastStep> last;
  if (!match.joints().empty()) {
    last = picture::LastStep{*(match.positions().end() - 2), match.joints().back()};
  }
  std::string who;
  for (const auto& [role, name] : names) {
    who += fmt::format("{}{}: {}", who.empty() ? "" : ", ", role, name);
  }
  const std::lock_guard lock(inner_->mutex);
  auto& boards = inner_->boards;
  const std::uint64_t version = ++inner_->version;
  boards.insert_or_assign(
      number,
      Inner::Board{match.position(), std::move(last), match.ply(), who, {}, version, {}, 0});
  // Those that have ended make room for those that are played.
  for (auto board = boards.begin(); board != boards.end() && boards.size() > most_boards;) {
    board = board->second.result.empty() ? std::next(board) : boards.erase(board);
  }
}

void BoardServer::ended(std::uint64_t number, const HostedMatch& match) {
  std::string result = match.interrupted ? "interrupted"
                       : match.finished
                           ? describe(inner_->game, match.outcome, match.record.players)
                           : "broken off";
  const std::lock_guard lock(inner_->mutex);
  inner_->results.push_front(fmt::format("match {}: {}", number, result));
  if (inner_->results.size() > most_results) inner_->results.pop_back();
  const auto board = inner_->boards.find(number);
  if (board == inner_->boards.end()) return;
  board->second.result = std::move(result);
  board->second.version = ++inner_->version;
}

}  // namespace orchard::protocol
