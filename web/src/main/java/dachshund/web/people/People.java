package dachshund.web.people;

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
import java.time.temporal.ChronoUnit;
import java.util.Base64;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.security.crypto.password.PasswordEncoder;
import org.springframework.stereotype.Component;

/** Everyone who may sign in. Passwords are kept as bcrypt hashes only. */
@Component
public class People {

    static final int SHORTEST_PASSWORD = 10;
    /** What bcrypt looks at; what is longer would count no further. */
    private static final int LONGEST_PASSWORD = 72;
    /** How long an invitation works. */
    static final Duration INVITATION = Duration.ofDays(3);
    /** The hash of no password at all. */
    private static final String NO_PASSWORD = "!";

    private static final String ONE_TIME_LETTERS = "abcdefghjkmnpqrstuvwxyz23456789";

    private final JdbcClient jdbc;
    private final PasswordEncoder encoder;
    private final PlantClock clock;
    private final Audit audit;

    /**
     * Somebody who may sign in.
     *
     * @param mustChange   whether the password is a one-time password
     * @param invitedUntil until when an invitation to choose a password works; null where none is open
     */
    public record Person(String name, Role role, boolean mustChange, Instant invitedUntil) {}

    record WithHash(Person person, String hash) {}

    People(JdbcClient jdbc, PasswordEncoder encoder, PlantClock clock, Audit audit) {
        this.jdbc = jdbc;
        this.encoder = encoder;
        this.clock = clock;
        this.audit = audit;
    }

    private static final String COLUMNS = "name, role, must_change, invited_until, password_hash";

    private static WithHash person(ResultSet row) throws SQLException {
        LocalDateTime until = row.getObject(4, LocalDateTime.class);
        return new WithHash(
                new Person(
                        row.getString(1),
                        Role.valueOf(row.getString(2)),
                        row.getBoolean(3),
                        until == null ? null : until.toInstant(ZoneOffset.UTC)),
                row.getString(5));
    }

    public List<Person> all() {
        return jdbc.sql("SELECT " + COLUMNS + " FROM person ORDER BY name")
                .query((row, n) -> person(row).person())
                .list();
    }

    Optional<WithHash> find(String name) {
        return jdbc.sql("SELECT " + COLUMNS + " FROM person WHERE name = ?")
                .param(name)
                .query((row, n) -> person(row))
                .optional();
    }

    /** A sentence on why such a person cannot be added; empty where it can. */
    String problem(String name) {
        if (!name.matches("[\\p{L}\\p{N}._@-]{2,60}")) {
            return "A name has 2 to 60 letters, digits, dots, dashes or @, and no spaces.";
        }
        return find(name).isPresent() ? "There is somebody named " + name + " already." : "";
    }

    public void add(String name, String password, Role role, boolean mustChange, String by) {
        add(name, role, encoder.encode(password), mustChange, by);
    }

    private void add(String name, Role role, String hash, boolean mustChange, String by) {
        jdbc.sql("INSERT INTO person (name, password_hash, role, must_change, made_at) VALUES (?, ?, ?, ?, ?)")
                .params(name, hash, role.name(), mustChange, utc(clock.now()))
                .update();
        audit.note(by, "added a person", name + " as " + role.words());
    }

    private static LocalDateTime utc(Instant at) {
        return LocalDateTime.ofInstant(at, ZoneOffset.UTC);
    }

    /** Adds somebody who chooses a password by an invitation; the token of it, which is kept nowhere. */
    String invite(String name, Role role, String by) {
        add(name, role, NO_PASSWORD, false, by);
        return invitation(name, by);
    }

    /** The password of a person does not work any more, and they are invited to choose a new one; the token of it. */
    String invitation(String name, String by) {
        byte[] random = new byte[32];
        new SecureRandom().nextBytes(random);
        String token = Base64.getUrlEncoder().withoutPadding().encodeToString(random);
        Instant until = clock.now().plus(INVITATION);
        jdbc.sql(
                        "UPDATE person SET password_hash = ?, must_change = FALSE, invitation = ?, invited_until = ? WHERE name = ?")
                .params(NO_PASSWORD, hash(token), utc(until), name)
                .update();
        audit.note(by, "invited a person", name + " until " + until.truncatedTo(ChronoUnit.SECONDS));
        return token;
    }

    private static String hash(String token) {
        try {
            return HexFormat.of()
                    .formatHex(MessageDigest.getInstance("SHA-256").digest(token.getBytes(StandardCharsets.UTF_8)));
        } catch (NoSuchAlgorithmException impossible) {
            throw new IllegalStateException(impossible);
        }
    }

    /** Who is invited by the token, also where its time is over; empty where nobody is. */
    Optional<Person> invited(String token) {
        return jdbc.sql("SELECT " + COLUMNS + " FROM person WHERE invitation = ?")
                .param(hash(token))
                .query((row, n) -> person(row).person())
                .optional();
    }

    /** Whether the time of an invitation is over. */
    boolean late(Person invited) {
        return invited.invitedUntil() != null && clock.now().isAfter(invited.invitedUntil());
    }

    /** Whoever is invited chooses a password. @return false where the invitation was used or taken back meanwhile */
    boolean take(Person invited, String token, String password) {
        boolean taken = jdbc.sql(
                                "UPDATE person SET password_hash = ?, must_change = FALSE, invitation = NULL, invited_until = NULL WHERE name = ? AND invitation = ?")
                        .params(encoder.encode(password), invited.name(), hash(token))
                        .update()
                == 1;
        if (taken) {
            audit.note(invited.name(), "chose a password", "by an invitation");
        }
        return taken;
    }

    void remove(String name, String by) {
        jdbc.sql("DELETE FROM person WHERE name = ?").param(name).update();
        audit.note(by, "removed a person", name);
    }

    boolean isPassword(String name, String password) {
        return find(name)
                .filter(found -> !found.hash().equals(NO_PASSWORD))
                .map(found -> encoder.matches(password, found.hash()))
                .orElse(false);
    }

    /** A sentence on why this cannot be a password; empty where it can. */
    static String passwordProblem(String next, String again) {
        if (next.length() < SHORTEST_PASSWORD) {
            return "A password has at least " + SHORTEST_PASSWORD + " characters.";
        }
        if (next.getBytes(StandardCharsets.UTF_8).length > LONGEST_PASSWORD) {
            return "A password has at most " + LONGEST_PASSWORD + " bytes.";
        }
        return next.equals(again) ? "" : "The two new passwords differ.";
    }

    void change(String name, String password) {
        jdbc.sql("UPDATE person SET password_hash = ?, must_change = FALSE WHERE name = ?")
                .params(encoder.encode(password), name)
                .update();
        audit.note(name, "changed the own password", "");
    }

    /** A password to be used once: four groups of four letters and digits that are told apart easily. */
    public static String oneTimePassword() {
        SecureRandom random = new SecureRandom();
        StringBuilder text = new StringBuilder();
        for (int i = 0; i < 16; i++) {
            text.append(i > 0 && i % 4 == 0 ? "-" : "")
                    .append(ONE_TIME_LETTERS.charAt(random.nextInt(ONE_TIME_LETTERS.length())));
        }
        return text.toString();
    }
}
