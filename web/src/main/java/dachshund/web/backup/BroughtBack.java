package dachshund.web.backup;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.engine.Engine;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Component;

/** What was said when this installation was brought back from a backup. Kept with the local store, and shown on every page until somebody has read it. */
@Component
public class BroughtBack {

    /** Its name in the local store. */
    static final String FACT = "brought back";

    private static final ObjectMapper JSON = new ObjectMapper();

    private final Engine engine;
    /** Kept here, since every page asks. */
    private volatile Optional<Account> account;

    /**
     * The account of it.
     *
     * @param at    when it was brought back, as in RFC 3339
     * @param lines a sentence or a count each
     * @param read  who has read it; empty while nobody has
     */
    public record Account(String at, List<String> lines, String read) {

        public Instant when() {
            return Instant.parse(at);
        }
    }

    BroughtBack(Engine engine) {
        this.engine = engine;
        this.account = engine.local().remembered(FACT).flatMap(BroughtBack::read);
    }

    static String fact(Instant at, List<String> lines) {
        return written(new Account(at.toString(), lines, ""));
    }

    private static String written(Account account) {
        try {
            return JSON.writeValueAsString(account);
        } catch (JsonProcessingException never) {
            throw new IllegalStateException(never);
        }
    }

    /** The account; empty where this installation was never brought back. */
    public Optional<Account> account() {
        return account;
    }

    /** The account, until somebody has read it. */
    public Optional<Account> unread() {
        return account().filter(kept -> kept.read().isEmpty());
    }

    private static Optional<Account> read(String fact) {
        try {
            return Optional.of(JSON.readValue(fact, Account.class));
        } catch (JsonProcessingException strange) {
            return Optional.empty(); // the audit has it as well
        }
    }

    /** Somebody has read it. */
    synchronized void read(Account kept, String by) {
        Account next = new Account(kept.at(), kept.lines(), by);
        engine.local().remember(FACT, written(next));
        account = Optional.of(next);
    }
}
