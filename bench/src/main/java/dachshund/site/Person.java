package dachshund.site;

import java.io.IOException;
import java.net.CookieManager;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.concurrent.TimeUnit;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/** Somebody with a session of their own at the pages of an application that runs. */
public final class Person {

    private static final Pattern TOKEN = Pattern.compile("name=\"_csrf\"[^>]*value=\"([^\"]+)\"");
    private static final Duration LIMIT = Duration.ofSeconds(60);
    private static final long LOOK_MILLIS = 200;
    /** Stands on the page of long work that is over. */
    private static final String OVER = "id=\"go-on\"";

    private final String address;
    private final HttpClient client = HttpClient.newBuilder()
            .cookieHandler(new CookieManager())
            .followRedirects(HttpClient.Redirect.NEVER)
            .version(HttpClient.Version.HTTP_1_1)
            .build();

    public Person(String address) {
        this.address = address;
    }

    public HttpResponse<String> get(String path) throws IOException, InterruptedException {
        return client.send(
                HttpRequest.newBuilder(URI.create(address + path))
                        .timeout(LIMIT)
                        .header("HX-Request", "true")
                        .build(),
                HttpResponse.BodyHandlers.ofString(StandardCharsets.UTF_8));
    }

    /** Posts names and values in turn, and waits for long work to be over as somebody does who watches its page. */
    public HttpResponse<String> post(String path, String... fields) throws IOException, InterruptedException {
        String form = IntStream.range(0, fields.length / 2)
                .mapToObj(i -> fields[2 * i] + "=" + URLEncoder.encode(fields[2 * i + 1], StandardCharsets.UTF_8))
                .collect(Collectors.joining("&"));
        return waited(client.send(
                HttpRequest.newBuilder(URI.create(address + path))
                        .timeout(LIMIT)
                        .header("Content-Type", "application/x-www-form-urlencoded")
                        .POST(HttpRequest.BodyPublishers.ofString("_csrf="
                                + URLEncoder.encode(found(TOKEN, get("/sign-in").body()), StandardCharsets.UTF_8) + "&"
                                + form))
                        .build(),
                HttpResponse.BodyHandlers.ofString(StandardCharsets.UTF_8)));
    }

    private HttpResponse<String> waited(HttpResponse<String> answer) throws IOException, InterruptedException {
        String page = answer.headers().firstValue("Location").orElse("");
        if (!page.contains("/work/")) {
            return answer;
        }
        String path = page.substring(page.indexOf("/work/"));
        long end = System.nanoTime() + LIMIT.toNanos();
        HttpResponse<String> seen = get(path);
        while (seen.statusCode() == 200 && !seen.body().contains(OVER)) {
            if (System.nanoTime() > end) {
                throw new IllegalStateException("Long work was not over within " + LIMIT.toSeconds() + " s: " + path);
            }
            TimeUnit.MILLISECONDS.sleep(LOOK_MILLIS);
            seen = get(path);
        }
        return seen;
    }

    public Person signIn(String name, String password) throws IOException, InterruptedException {
        HttpResponse<String> answer = post("/sign-in", "username", name, "password", password);
        if (answer.statusCode() != 302
                || answer.headers().firstValue("Location").orElse("").contains("error")) {
            throw new IllegalStateException("Signing in as " + name + " gave " + answer.statusCode());
        }
        return this;
    }

    public static String found(Pattern pattern, String text) {
        Matcher matcher = pattern.matcher(text);
        if (!matcher.find()) {
            throw new IllegalStateException("There is no " + pattern + " on the page.");
        }
        return matcher.group(1);
    }
}
