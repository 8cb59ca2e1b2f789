#include "protocol/remote_player.hpp"

#include <fmt/core.h>
#include <httplib.h>

#include "http/listening.hpp"

namespace orchard::protocol {
namespace {

using Clock = std::chrono::steady_clock;

}  // namespace

struct RemotePlayer::Inner {
  Inner(std::string url, const http::Address& of, Watchdogs& dogs)
      : address(std::move(url)), watchdogs(dogs), client(of.host, of.port) {
    client.set_tcp_nodelay(true);
    // A connection a message, as is usual: one that is kept costs both sides, while nothing is
    // said.
    client.set_keep_alive(false);
  }
  std::string address;
  Watchdogs& watchdogs;
  httplib::Client client;
};

RemotePlayer::RemotePlayer(std::unique_ptr<Inner> inner) : inner_(std::move(inner)) {}
RemotePlayer::~RemotePlayer() = default;
RemotePlayer::RemotePlayer(RemotePlayer&&) noexcept = default;

Result<RemotePlayer> RemotePlayer::at(const std::string& address, Watchdogs& watchdogs) {
  const auto read = http::read_address(address);
  if (!read) return read.diagnostics();
  return RemotePlayer(std::make_unique<Inner>(address, *read, watchdogs));
}

const std::string& RemotePlayer::address() const {
  return inner_->address;
}

RemotePlayer::Answer RemotePlayer::send(const std::string& message, double seconds, bool outlasts) {
  constexpr std::size_t most_bytes = 1u << 16;  // of a reply: it is a word or a move
  const auto begun = Clock::now();
  const auto until =
      begun + std::chrono::duration_cast<Clock::duration>(std::chrono::duration<double>(seconds));
  httplib::Client& client = inner_->client;
  const Watchdogs::Watch watch(inner_->watchdogs, until, outlasts, [&client] { client.stop(); });
  const auto timeout = std::chrono::microseconds(static_cast<std::int64_t>(1e6 * seconds) + 1000);
  client.set_connection_timeout(timeout);
  client.set_read_timeout(timeout);
  client.set_write_timeout(timeout);
  httplib::Request request;
  request.method = "POST";
  request.path = "/";
  request.headers = {{"Accept", "text/delim"},
                     {"Sender", "orchard"},
                     {"Receiver", "player"},
                     {"Content-Type", "text/acl"}};
  request.body = message;
  std::string text;
  request.content_receiver = [&](const char* data, std::size_t size, std::uint64_t, std::uint64_t) {
    text.append(data, size);
    return text.size() <= most_bytes;
  };
  const httplib::Result result = client.send(request);
  Answer answer;
  answer.seconds = std::chrono::duration<double>(Clock::now() - begun).count();
  answer.status = result ? result->status : 0;
  answer.text = result ? std::move(text) : httplib::to_string(result.error());
  answer.kind = answer.seconds > seconds ? Answer::Kind::late
                : !result                ? Answer::Kind::unreachable
                : result->status == 200  ? Answer::Kind::reply
                                         : Answer::Kind::refused;
  return answer;
}

}  // namespace orchard::protocol
