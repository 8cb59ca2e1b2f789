#include "desk/server.hpp"

#include <fmt/core.h>
#include <httplib.h>

#include "desk/assets.hpp"
#include "desk/table.hpp"
#include "http/listening.hpp"

namespace orchard::desk {
namespace {

constexpr std::size_t most_sent = 32u << 20;  // bytes of a request

void answer_with(httplib::Response& response, int status, const std::string& text) {
  response.status = status;
  response.set_content(text, "text/plain; charset=utf-8");
}

// As it is: compressing what goes to the same machine would only take time, up to seconds.
void send(httplib::Response& response, std::string contents, const std::string& type) {
  const std::size_t size = contents.size();
  response.set_content_provider(size, type,
                                [contents = std::move(contents)](
                                    std::size_t from, std::size_t length, httplib::DataSink& sink) {
                                  return sink.write(contents.data() + from, length);
                                });
}

}  // namespace

struct Server::Inner {
  explicit Inner(Desk& of) : desk(of) {}

  // Whether the one who asks came by the address that was given.
  bool is_own(const httplib::Request& request) const {
    const std::string own = http::text_of(address);
    const std::string origin = request.get_header_value("Origin");
    return "http://" + request.get_header_value("Host") == own && (origin.empty() || origin == own);
  }
  void serve_file(const httplib::Request& request, httplib::Response& response) const;
  void serve_answer(const httplib::Request& request, httplib::Response& response);

  Desk& desk;
  httplib::Server server;
  std::string own_token = random_token();
  http::Address address;
};

void Server::Inner::serve_file(const httplib::Request& request, httplib::Response& response) const {
  if (!is_own(request)) return answer_with(response, 403, "not from the desk's own address");
  const std::string token = request.matches[1].str();
  const std::string named = request.matches[2].str();
  // A window for a seat has files of its own, and may have no others.
  const bool is_desk = token == own_token;
  if (!is_desk && !desk.has_window(token)) return answer_with(response, 404, "no such page");
  const std::string name = !named.empty() ? named : is_desk ? "index.html" : "seat.html";
  const auto file = is_desk || is_of_seats(name) ? asset(name) : std::nullopt;
  if (!file) return answer_with(response, 404, "no such file");
  send(response, file->contents, file->type);
}

void Server::Inner::serve_answer(const httplib::Request& request, httplib::Response& response) {
  if (!is_own(request)) return answer_with(response, 403, "not from the desk's own address");
  const Json asked = Json::parse(request.body, nullptr, false);
  if (!asked.is_object()) return answer_with(response, 400, "a JSON object was expected");
  Json answer;
  try {
    const std::string token = request.matches[1].str();
    const std::string verb = request.matches[2].str();
    if (token != own_token && !desk.has_window(token))
      return answer_with(response, 404, "no such page");
    answer = token == own_token ? desk.answer(verb, asked) : desk.answer_window(token, verb, asked);
  } catch (const Json::exception& fault) {
    return answer_with(response, 400, fault.what());
  }
  send(response, json_text(answer), "application/json; charset=utf-8");
}

Server::Server(Desk& desk) : inner_(std::make_unique<Inner>(desk)) {
  httplib::Server& server = inner_->server;
  server.set_tcp_nodelay(true);
  server.set_payload_max_length(most_sent);
  server.set_keep_alive_max_count(1000);
  server.set_default_headers(
      {{"Content-Security-Policy",
        "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; connect-src "
        "'self'; img-src 'self' data:; base-uri 'none'; form-action 'none'; frame-ancestors "
        "'none'"},
       {"X-Content-Type-Options", "nosniff"},
       {"Referrer-Policy", "no-referrer"},
       {"Cache-Control", "no-store"}});
  server.Get("/([0-9a-f]+)/(.*)",
             [this](const httplib::Request& request, httplib::Response& response) {
               inner_->serve_file(request, response);
             });
  server.Post("/([0-9a-f]+)/ask/([a-z]+)",
              [this](const httplib::Request& request, httplib::Response& response) {
                inner_->serve_answer(request, response);
              });
}

Server::~Server() = default;

Diagnostics Server::listen_on(int port) {
  inner_->address.port = port;
  return http::listen_on(inner_->server, inner_->address);
}

std::string Server::address() const {
  return fmt::format("{}/{}/", http::text_of(inner_->address), inner_->own_token);
}

void Server::run(const std::stop_token& stop) {
  const std::stop_callback when_asked(stop, [this] { inner_->server.stop(); });
  // A stop that was asked for before it runs would be missed.
  if (!stop.stop_requested()) inner_->server.listen_after_bind();
}

}  // namespace orchard::desk
