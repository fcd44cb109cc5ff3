package dachshund.web.people;

import java.time.Duration;
import java.time.Instant;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.springframework.security.core.session.SessionInformation;
import org.springframework.security.core.session.SessionRegistry;
import org.springframework.stereotype.Component;

/** Who is signed in where, and ending that. */
@Component
class Sessions {

    /** However busy it is, a session ends so long after its sign-in. */
    static final Duration LONGEST = Duration.ofHours(12);

    private static final int REASONS = 1000;

    private final SessionRegistry registry;
    /** Of sessions that were ended lately, why: whatever of an open page asks first, its owner is told on the next page. */
    private final Map<String, Why> ended = new LinkedHashMap<>() {
        private static final long serialVersionUID = 1;

        @Override
        protected boolean removeEldestEntry(Map.Entry<String, Why> eldest) {
            return size() > REASONS;
        }
    };

    /** Why a session was ended by somebody, as the sign-in names it. */
    enum Why {
        REMOVED,
        NEW_PASSWORD,
        BY_ADMINISTRATOR;

        String word() {
            return name().toLowerCase(Locale.ROOT).replace('_', '-');
        }
    }

    Sessions(SessionRegistry registry) {
        this.registry = registry;
    }

    /**
     * A session.
     *
     * @param key  names it on a page; tells nothing that would let anybody take it over
     * @param from address it was begun from
     * @param used when the last page was asked for
     */
    public record Session(String key, String who, String from, Instant since, Instant used) {}

    /** All that go on, by name, the one used last first. */
    List<Session> all() {
        return registry.getAllPrincipals().stream()
                .filter(SignedIn.class::isInstance)
                .map(SignedIn.class::cast)
                .flatMap(who -> of(who).stream())
                .sorted(Comparator.comparing(Session::who).thenComparing(Session::used, Comparator.reverseOrder()))
                .toList();
    }

    private List<Session> of(SignedIn who) {
        return registry.getAllSessions(who, false).stream()
                .map(session -> {
                    SignedIn signedIn = (SignedIn) session.getPrincipal();
                    return new Session(
                            key(session),
                            who.getUsername(),
                            signedIn.from(),
                            signedIn.since(),
                            session.getLastRequest().toInstant());
                })
                .toList();
    }

    private static String key(SessionInformation session) {
        return Integer.toHexString(session.getSessionId().hashCode() * 31 + 7);
    }

    /** Ends all sessions of a person but one; all of them where its id is empty. */
    void endAll(String name, String but, Why why) {
        registry.getAllPrincipals().stream()
                .filter(who -> who instanceof SignedIn signedIn
                        && signedIn.getUsername().equals(name))
                .flatMap(who -> registry.getAllSessions(who, false).stream())
                .filter(session -> !session.getSessionId().equals(but))
                .forEach(session -> end(session, why));
    }

    private void end(SessionInformation session, Why why) {
        synchronized (ended) {
            ended.put(session.getSessionId(), why);
        }
        session.expireNow();
    }

    /** What its owner is told of a session that was ended: a word for the sign-in. */
    String why(String sessionId) {
        synchronized (ended) {
            Why why = ended.get(sessionId);
            return why == null ? "ended" : why.word();
        }
    }

    /** Ends one session; whose it was, empty where it has ended already. */
    String end(String key) {
        for (Object who : registry.getAllPrincipals()) {
            for (SessionInformation session : registry.getAllSessions(who, false)) {
                if (key(session).equals(key)) {
                    end(session, Why.BY_ADMINISTRATOR);
                    return ((SignedIn) who).getUsername();
                }
            }
        }
        return "";
    }
}
