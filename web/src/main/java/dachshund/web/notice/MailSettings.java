package dachshund.web.notice;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.core.type.TypeReference;
import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.core.secret.Seals;
import dachshund.core.secret.SecretBox;
import dachshund.engine.Engine;
import dachshund.links.notice.Smtp;
import java.nio.charset.StandardCharsets;
import java.security.SecureRandom;
import java.util.Base64;
import java.util.Map;
import java.util.TreeMap;

/** How notices leave: the mail server, and the secret that webhooks are signed with. On the local disk, secrets sealed. */
final class MailSettings {

    /** What the password is sealed for. */
    static final String THING = "notices by mail";

    private static final String FACT = "notice mail";
    private static final String SECRET = "notice webhook secret";
    private static final String ABOUT = "webhooks";
    /** How the Standard Webhooks specification leads a secret. */
    private static final String LEAD = "whsec_";

    private static final int SECRET_BYTES = 32;
    private static final ObjectMapper JSON = new ObjectMapper();

    private final Engine engine;
    private final SecretBox secrets;
    private final Seals seals;

    MailSettings(Engine engine, SecretBox secrets) {
        this.engine = engine;
        this.secrets = secrets;
        this.seals = new Seals(secrets);
    }

    /** As they are kept; empty where nobody has set them. */
    Map<String, String> kept() {
        try {
            return engine.local().remembered(FACT).isEmpty()
                    ? Map.of()
                    : JSON.readValue(
                            engine.local().remembered(FACT).get(), new TypeReference<TreeMap<String, String>>() {});
        } catch (JsonProcessingException strange) {
            return Map.of();
        }
    }

    void keep(Map<String, String> settings) {
        try {
            engine.local().remember(FACT, JSON.writeValueAsString(seals.sealed(THING, Smtp.fields(), settings)));
        } catch (JsonProcessingException never) {
            throw new IllegalStateException(never);
        }
    }

    /** @throws IllegalArgumentException with a sentence, where they cannot be used */
    Map<String, String> opened() {
        Map<String, String> kept = kept();
        if (kept.isEmpty()) {
            throw new IllegalArgumentException("No mail server is set.");
        }
        return seals.opened(THING, Smtp.fields(), kept);
    }

    /**
     * What webhooks are signed with, as receivers are given it; drawn when it is asked for first.
     *
     * @throws IllegalArgumentException with a sentence, where the key is lost
     */
    synchronized String webhookSecret() {
        String sealed = engine.local().remembered(SECRET).orElse("");
        if (sealed.isEmpty()) {
            byte[] drawn = new byte[SECRET_BYTES];
            new SecureRandom().nextBytes(drawn);
            sealed = secrets.seal(LEAD + Base64.getEncoder().encodeToString(drawn), ABOUT);
            engine.local().remember(SECRET, sealed);
        }
        return secrets.open(sealed, ABOUT);
    }

    byte[] webhookKey() {
        return Base64.getDecoder()
                .decode(webhookSecret().substring(LEAD.length()).getBytes(StandardCharsets.US_ASCII));
    }
}
