package dachshund.web;

import static dachshund.web.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.office.work.Work;
import dachshund.office.work.Works;
import java.net.CookieManager;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;

/** Talks HTTP to the application with a session of its own, as a browser would, but without one. */
final class Visitor {

    private static final Pattern FINGERPRINT = Pattern.compile("name=\"fingerprint\" value=\"([^\"]*)\"");

    private static final Pattern TOKEN = Pattern.compile("name=\"_csrf\"[^>]*value=\"([^\"]+)\"");

    private static final Pattern INVITATION = Pattern.compile("/invitation\\?token=([\\w-]+)");

    /** Of everybody that {@link #invites} makes. */
    static final String OWN_PASSWORD = "a longer password";

    private final Site site;
    private final HttpClient client = HttpClient.newBuilder()
            .cookieHandler(new CookieManager())
            .followRedirects(HttpClient.Redirect.NEVER)
            .build();

    Visitor(Site site) {
        this.site = site;
    }

    Visitor signIn(String name, String password) throws Exception {
        if (isAway(name, password)) {
            Soon.soon(() -> !isAway(name, password));
        }
        return this;
    }

    /** Whether our own database did not answer a sign-in in time, as on a busy machine: that says nothing of the person. */
    private boolean isAway(String name, String password) throws Exception {
        return post("/sign-in", "username", name, "password", password)
                .headers()
                .firstValue("Location")
                .orElse("")
                .endsWith("?away");
    }

    /** Somebody new, invited by this visitor and signed in with a password of their own. */
    Visitor invites(String name, String role) throws Exception {
        accept(post("/people", "name", name, "role", role));
        return new Visitor(site).signIn(name, OWN_PASSWORD);
    }

    /** Takes the invitation that a page tells of. */
    void accept(HttpResponse<String> told) throws Exception {
        Matcher token = INVITATION.matcher(told.body());
        if (!token.find()) {
            throw new IllegalStateException("No invitation on the page: " + told.statusCode());
        }
        new Visitor(site).post("/invitation", "token", token.group(1), "next", OWN_PASSWORD, "again", OWN_PASSWORD);
    }

    HttpResponse<String> get(String path) throws Exception {
        return client.send(
                HttpRequest.newBuilder(URI.create(site.address(path))).build(),
                HttpResponse.BodyHandlers.ofString(StandardCharsets.UTF_8));
    }

    /** The CSRF token of a page of this visitor. */
    String token() throws Exception {
        HttpResponse<String> form = get("/sign-in");
        Matcher token = TOKEN.matcher(form.body());
        if (!token.find()) {
            throw new IllegalStateException("No CSRF token on the page.");
        }
        return token.group(1);
    }

    /** Posts names and values with a CSRF token taken from a page. */
    HttpResponse<String> post(String path, String... fields) throws Exception {
        return postBare(
                path,
                Stream.concat(Stream.of("_csrf", token()), Stream.of(fields)).toArray(String[]::new));
    }

    /** Posts a file as a browser does (RFC 7578). */
    HttpResponse<String> send(String path, String field, String content) throws Exception {
        String between = "----visitor";
        String body = "--" + between + "\r\nContent-Disposition: form-data; name=\"_csrf\"\r\n\r\n" + token()
                + "\r\n--" + between + "\r\nContent-Disposition: form-data; name=\"" + field
                + "\"; filename=\"a file.json\"\r\nContent-Type: application/json\r\n\r\n" + content + "\r\n--"
                + between + "--\r\n";
        return waited(client.send(
                HttpRequest.newBuilder(URI.create(site.address(path)))
                        .header("Content-Type", "multipart/form-data; boundary=" + between)
                        .POST(HttpRequest.BodyPublishers.ofString(body))
                        .build(),
                HttpResponse.BodyHandlers.ofString(StandardCharsets.UTF_8)));
    }

    /** Posts without a CSRF token. */
    HttpResponse<String> postBare(String path, String... fields) throws Exception {
        StringBuilder body = new StringBuilder();
        for (int i = 0; i < fields.length; i += 2) {
            body.append(i > 0 ? "&" : "")
                    .append(fields[i])
                    .append('=')
                    .append(URLEncoder.encode(fields[i + 1], StandardCharsets.UTF_8));
        }
        HttpRequest request = HttpRequest.newBuilder(URI.create(site.address(path)))
                .header("Content-Type", "application/x-www-form-urlencoded")
                .POST(HttpRequest.BodyPublishers.ofString(body.toString()))
                .build();
        return waited(client.send(request, HttpResponse.BodyHandlers.ofString(StandardCharsets.UTF_8)));
    }

    /** Releases all drafts, as the review's page has them now. */
    void release() throws Exception {
        Matcher seen = FINGERPRINT.matcher(get("/release").body());
        assertThat(seen.find()).isTrue();
        post("/release", "fingerprint", seen.group(1));
    }

    /** What takes longer than a page waits for is answered with its end, however busy the machine is. */
    private HttpResponse<String> waited(HttpResponse<String> answer) throws Exception {
        Optional<Work> work = answer.headers()
                .firstValue("Location")
                .filter(place -> place.contains("/work/"))
                .flatMap(place -> site.bean(Works.class).find(place.substring(place.lastIndexOf('/') + 1)));
        if (work.isEmpty()) {
            return answer;
        }
        soon(() -> work.get().state().over());
        return get("/work/" + work.get().id());
    }
}
