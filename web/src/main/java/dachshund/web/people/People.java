package dachshund.web.people;

import dachshund.core.time.PlantClock;
import dachshund.web.audit.Audit;
import java.security.SecureRandom;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Optional;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.security.crypto.password.PasswordEncoder;
import org.springframework.stereotype.Component;

/** Everyone who may sign in. Passwords are kept as bcrypt hashes only. */
@Component
public class People {

    static final int SHORTEST_PASSWORD = 10;
    private static final String ONE_TIME_LETTERS = "abcdefghjkmnpqrstuvwxyz23456789";

    private final JdbcClient jdbc;
    private final PasswordEncoder encoder;
    private final PlantClock clock;
    private final Audit audit;

    /** @param mustChange whether the password is a one-time password */
    public record Person(String name, Role role, boolean mustChange) {}

    record WithHash(Person person, String hash) {}

    People(JdbcClient jdbc, PasswordEncoder encoder, PlantClock clock, Audit audit) {
        this.jdbc = jdbc;
        this.encoder = encoder;
        this.clock = clock;
        this.audit = audit;
    }

    public List<Person> all() {
        return jdbc.sql("SELECT name, role, must_change FROM person ORDER BY name")
                .query((row, n) -> new Person(row.getString(1), Role.valueOf(row.getString(2)), row.getBoolean(3)))
                .list();
    }

    Optional<WithHash> find(String name) {
        return jdbc.sql("SELECT name, role, must_change, password_hash FROM person WHERE name = ?")
                .param(name)
                .query((row, n) -> new WithHash(
                        new Person(row.getString(1), Role.valueOf(row.getString(2)), row.getBoolean(3)),
                        row.getString(4)))
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
        jdbc.sql("INSERT INTO person (name, password_hash, role, must_change, made_at) VALUES (?, ?, ?, ?, ?)")
                .params(
                        name,
                        encoder.encode(password),
                        role.name(),
                        mustChange,
                        LocalDateTime.ofInstant(clock.now(), ZoneOffset.UTC))
                .update();
        audit.note(by, "added a person", name + " as " + role.words());
    }

    /** A new one-time password of a person, who must change it at the next sign-in. */
    String renew(String name, String by) {
        String once = oneTimePassword();
        jdbc.sql("UPDATE person SET password_hash = ?, must_change = TRUE WHERE name = ?")
                .params(encoder.encode(once), name)
                .update();
        audit.note(by, "gave a one-time password", name);
        return once;
    }

    void remove(String name, String by) {
        jdbc.sql("DELETE FROM person WHERE name = ?").param(name).update();
        audit.note(by, "removed a person", name);
    }

    boolean isPassword(String name, String password) {
        return find(name).map(found -> encoder.matches(password, found.hash())).orElse(false);
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
