package dachshund.web.api;

import dachshund.core.time.PlantClock;
import dachshund.office.audit.Audit;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.security.SecureRandom;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.Arrays;
import java.util.EnumSet;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Collectors;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Component;

/**
 * Tokens of programs: 256 random bits, shown once, kept as SHA-256. A token that is found is remembered for some
 * seconds, so that a busy program does not ask our own database with each request; a revoked one is forgotten at once.
 */
@Component
public class ApiTokens {

    private static final String PREFIX = "dh_";
    private static final Duration REMEMBERED = Duration.ofSeconds(10);
    private static final Duration USE_NOTED = Duration.ofMinutes(1);

    private final JdbcClient jdbc;
    private final PlantClock clock;
    private final Audit audit;
    private final SecureRandom random = new SecureRandom();
    private final Map<String, Remembered> remembered = new ConcurrentHashMap<>();

    /** What a program may do. */
    public enum Scope {
        READ("read", "list tags, read values, listen"),
        WRITE_KEPT("write-kept", "write kept tags"),
        WRITE_PLANT("write-plant", "write to the plant, where a source allows it"),
        RUN("run", "do transactions");

        private final String id;
        private final String words;

        Scope(String id, String words) {
            this.id = id;
            this.words = words;
        }

        public String id() {
            return id;
        }

        public String words() {
            return words;
        }
    }

    /** A token as it is listed. */
    public record Token(
            long id,
            String name,
            Set<Scope> scopes,
            String madeBy,
            Instant madeAt,
            Optional<Instant> lastUsed,
            Optional<Instant> revokedAt,
            String revokedBy) {}

    private record Remembered(Optional<Token> token, Instant until, Instant usedAt) {}

    ApiTokens(JdbcClient jdbc, PlantClock clock, Audit audit) {
        this.jdbc = jdbc;
        this.clock = clock;
        this.audit = audit;
    }

    /** Makes a token and returns it in clear, for the only time. */
    String make(String name, Set<Scope> scopes, String by) {
        if (name.isBlank() || name.length() > 120) {
            throw new IllegalArgumentException(
                    "A token needs a name of up to 120 characters, such as the program that uses it.");
        }
        if (scopes.isEmpty()) {
            throw new IllegalArgumentException("Tick what the token may do.");
        }
        byte[] bits = new byte[32];
        random.nextBytes(bits);
        String clear = PREFIX + HexFormat.of().formatHex(bits);
        jdbc.sql("INSERT INTO api_token (name, hash, scopes, made_by, made_at) VALUES (?, ?, ?, ?, ?)")
                .params(
                        name.strip(),
                        hash(clear),
                        scopes.stream().map(Scope::id).collect(Collectors.joining(" ")),
                        by,
                        utc(clock.now()))
                .update();
        audit.note(
                by,
                "made a token",
                name.strip() + ": " + scopes.stream().map(Scope::id).collect(Collectors.joining(", ")));
        return clear;
    }

    List<Token> all() {
        return jdbc.sql(
                        "SELECT id, name, scopes, made_by, made_at, last_used, revoked_at, revoked_by FROM api_token ORDER BY revoked_at IS NOT NULL, id DESC")
                .query((row, n) -> token(row))
                .list();
    }

    void revoke(long id, String by) {
        int changed = jdbc.sql(
                        "UPDATE api_token SET revoked_at = ?, revoked_by = ? WHERE id = ? AND revoked_at IS NULL")
                .params(utc(clock.now()), by, id)
                .update();
        remembered.clear();
        if (changed > 0) {
            audit.note(by, "revoked a token", "token " + id);
        }
    }

    /** The token, if it is known and not revoked; notes its use. */
    Optional<Token> find(String clear) {
        String hash = hash(clear);
        Instant now = clock.now();
        Remembered known = remembered.get(hash);
        if (known == null || known.until().isBefore(now)) {
            Optional<Token> token = jdbc.sql(
                            "SELECT id, name, scopes, made_by, made_at, last_used, revoked_at, revoked_by FROM api_token WHERE hash = ? AND revoked_at IS NULL")
                    .param(hash)
                    .query((row, n) -> token(row))
                    .optional();
            Instant used = known == null ? Instant.EPOCH : known.usedAt();
            if (token.isPresent() && Duration.between(used, now).compareTo(USE_NOTED) > 0) {
                jdbc.sql("UPDATE api_token SET last_used = ? WHERE id = ?")
                        .params(utc(now), token.get().id())
                        .update();
                used = now;
            }
            known = new Remembered(token, now.plus(REMEMBERED), used);
            if (remembered.size() > 1000) {
                remembered.clear(); // guesses must not fill the memory
            }
            remembered.put(hash, known);
        }
        return known.token();
    }

    private static Token token(ResultSet row) throws SQLException {
        List<String> granted = List.of(row.getString("scopes").split(" "));
        Set<Scope> scopes = EnumSet.noneOf(Scope.class);
        Arrays.stream(Scope.values())
                .filter(scope -> granted.contains(scope.id()))
                .forEach(scopes::add);
        return new Token(
                row.getLong("id"),
                row.getString("name"),
                scopes,
                row.getString("made_by"),
                instant(row, "made_at").orElseThrow(),
                instant(row, "last_used"),
                instant(row, "revoked_at"),
                Optional.ofNullable(row.getString("revoked_by")).orElse(""));
    }

    private static Optional<Instant> instant(ResultSet row, String column) throws SQLException {
        return Optional.ofNullable(row.getObject(column, LocalDateTime.class))
                .map(time -> time.toInstant(ZoneOffset.UTC));
    }

    private static LocalDateTime utc(Instant at) {
        return LocalDateTime.ofInstant(at, ZoneOffset.UTC);
    }

    private static String hash(String clear) {
        try {
            return HexFormat.of()
                    .formatHex(MessageDigest.getInstance("SHA-256").digest(clear.getBytes(StandardCharsets.UTF_8)));
        } catch (NoSuchAlgorithmException impossible) {
            throw new IllegalStateException(impossible);
        }
    }
}
