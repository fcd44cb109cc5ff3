package dachshund.links.notice;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dachshund.core.notice.Calm;
import dachshund.core.notice.Carrier;
import dachshund.core.notice.Message;
import dachshund.core.reach.Outside;
import dachshund.core.time.PlantClock;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.net.http.HttpTimeoutException;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.time.Duration;
import java.util.Base64;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.function.Supplier;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;

/**
 * Carries messages to a program by HTTP: JSON, signed as the Standard Webhooks specification 1.0 says (from memory): the
 * headers {@code webhook-id}, {@code webhook-timestamp} and {@code webhook-signature}, the last being {@code v1,} and the
 * Base64 of HMAC-SHA256 over id, time stamp and body with dots between. Redirects are not followed: an address that is
 * allowed leads nowhere else.
 */
public final class Webhook implements Carrier {

    private static final ObjectMapper JSON = new ObjectMapper();
    private static final Duration CONNECT = Duration.ofSeconds(10);
    private static final Duration ANSWER = Duration.ofSeconds(20);
    private static final int TOO_MANY = 429;
    private static final int TIMED_OUT = 408;
    private static final int SERVER_ERROR = 500;
    private static final int OK = 200;
    private static final int REDIRECT = 300;

    private final Supplier<byte[]> secret;
    private final Outside outside;
    private final PlantClock clock;
    private final HttpClient client = HttpClient.newBuilder()
            .connectTimeout(CONNECT)
            .followRedirects(HttpClient.Redirect.NEVER)
            .build();

    /** @param secret with which messages are signed; throws IllegalArgumentException with a sentence where it cannot be opened */
    public Webhook(Supplier<byte[]> secret, Outside outside, PlantClock clock) {
        this.secret = secret;
        this.outside = outside;
        this.clock = clock;
    }

    @Override
    public void carry(List<String> to, Message message) throws Undelivered {
        for (String each : to) {
            carry(URI.create(each), message);
        }
    }

    private void carry(URI to, Message message) throws Undelivered {
        boolean encrypted = "https".equalsIgnoreCase(to.getScheme());
        int port = to.getPort() > 0 ? to.getPort() : encrypted ? 443 : 80;
        String place = to.getHost() + ":" + port;
        try {
            outside.check(to.getHost(), port);
            String body = body(message);
            String at = Long.toString(clock.now().getEpochSecond());
            HttpResponse<Void> answer = send(HttpRequest.newBuilder(to)
                    .timeout(ANSWER)
                    .header("Content-Type", "application/json")
                    .header("webhook-id", message.id())
                    .header("webhook-timestamp", at)
                    .header("webhook-signature", "v1," + signature(secret.get(), message.id(), at, body))
                    .POST(HttpRequest.BodyPublishers.ofString(body))
                    .build());
            int status = answer.statusCode();
            if (status < OK || status >= REDIRECT) {
                throw new Undelivered(
                        place + " answered " + status + ".",
                        status != TOO_MANY && status != TIMED_OUT && status < SERVER_ERROR,
                        null);
            }
        } catch (Outside.Refused | IllegalArgumentException refused) {
            throw new Undelivered(refused.getMessage(), false, refused);
        } catch (HttpTimeoutException slow) {
            throw new Undelivered(place + " did not answer in time.", false, slow);
        } catch (IOException problem) {
            throw new Undelivered(
                    place + " cannot be reached"
                            + (problem.getMessage() == null ? "." : ": " + problem.getMessage() + "."),
                    false,
                    problem);
        } catch (InterruptedException stopped) {
            Thread.currentThread().interrupt();
            throw new Undelivered("The application stopped while it was sent.", false, stopped);
        }
    }

    /** The limit holds for the body of the answer, too, which nobody reads. */
    private HttpResponse<Void> send(HttpRequest request) throws IOException, InterruptedException {
        CompletableFuture<HttpResponse<Void>> answer =
                client.sendAsync(request, HttpResponse.BodyHandlers.discarding());
        try {
            return answer.get(ANSWER.toSeconds() + CONNECT.toSeconds(), TimeUnit.SECONDS);
        } catch (TimeoutException slow) {
            answer.cancel(true);
            throw new HttpTimeoutException("the answer did not end");
        } catch (ExecutionException problem) {
            throw problem.getCause() instanceof IOException io ? io : new IOException(problem.getCause());
        }
    }

    static String signature(byte[] key, String id, String at, String body) {
        try {
            Mac mac = Mac.getInstance("HmacSHA256");
            mac.init(new SecretKeySpec(key, "HmacSHA256"));
            return Base64.getEncoder()
                    .encodeToString(mac.doFinal((id + "." + at + "." + body).getBytes(StandardCharsets.UTF_8)));
        } catch (GeneralSecurityException impossible) {
            throw new IllegalStateException(impossible);
        }
    }

    private static String body(Message message) {
        ObjectNode all = JSON.createObjectNode();
        all.put("type", message.lines().isEmpty() ? "test" : "notice");
        all.put("timestamp", message.at().toString());
        ObjectNode data = all.putObject("data");
        data.put("site", message.site());
        data.put("subject", message.subject());
        for (Calm.Line line : message.lines()) {
            data.withArray("matters")
                    .addObject()
                    .put("state", line.what().name().toLowerCase(Locale.ROOT))
                    .put("key", line.matter().key())
                    .put("sort", line.matter().sort().name().toLowerCase(Locale.ROOT))
                    .put("alarm", line.matter().sort().alarm())
                    .put("thing", line.matter().thing())
                    .put("folder", line.matter().folder())
                    .put("sentence", line.matter().sentence())
                    .put("since", line.matter().since().toString());
        }
        try {
            return JSON.writeValueAsString(all);
        } catch (JsonProcessingException never) {
            throw new IllegalStateException(never);
        }
    }
}
