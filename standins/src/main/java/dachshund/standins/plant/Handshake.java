package dachshund.standins.plant;

import java.time.Instant;

/**
 * A controller's side of a request with a number: it asks, waits for the number to come back, asks twice now and then, gives up
 * after a while, and is restarted sometimes in the middle of it; then it counts anew, under another epoch.
 */
final class Handshake {

    private static final long LAST_NUMBER = 999;

    private final Equipment of;
    private final PlantTag number;
    private final PlantTag epoch;
    private final PlantTag answered;
    private final PlantTag code;
    private final PlantTag text;
    private volatile boolean open;
    private volatile boolean forgets;
    private long counted;
    private boolean again;
    private double left;
    private double patience;

    /** How a request goes on. */
    enum Then {
        WAITS,
        TOLD,
        /** Nobody has answered in time. */
        LATE,
        /** The controller was restarted in the middle of it. */
        RESTARTED
    }

    /** @param prefix what its tags' names begin with; the first letter of what follows is small where there is one */
    Handshake(Equipment of, String prefix) {
        this.of = of;
        number = of.state(name(prefix, "Request number"), 0L, "Counts up with each request; 0 for none");
        epoch = of.state(name(prefix, "Request epoch"), 0L, "Changes when the controller begins to count anew");
        answered = of.written(name(prefix, "Answered number"), 0L, "Number of the request that is answered");
        code = of.written(name(prefix, "Answer code"), 0L, "1 done, 2 done but, 3 failed");
        text = of.written(name(prefix, "Answer text"), "", "What people read there");
    }

    private static String name(String prefix, String name) {
        return prefix.isEmpty() ? name : prefix + " " + Character.toLowerCase(name.charAt(0)) + name.substring(1);
    }

    /** Asks for something new; for how many seconds it waits. */
    void ask(double seconds, Instant at) {
        counted = counted >= LAST_NUMBER ? 1 : counted + 1;
        number.set(counted, at);
        again = of.chance(12, 1);
        patience = seconds;
        left = seconds;
        open = true;
    }

    /** Asks for the same once more, after it has got no answer; by a new number where it has forgotten the old one. */
    void insist(Instant at) {
        if (counted == 0) {
            ask(patience, at);
            return;
        }
        number.set(counted, at);
        left = patience;
        open = true;
    }

    /** Asks for nothing any more. */
    void end(Instant at) {
        number.set(0L, at);
        open = false;
    }

    /** The controller has lost its memory: with its next step it counts anew. */
    void forget() {
        forgets = true;
    }

    /** @param sturdy whether it is not restarted by chance */
    Then advance(double seconds, boolean sturdy, Instant at) {
        if ((Long) epoch.value() == 0) {
            epoch.set(at.getEpochSecond(), at);
        }
        if (forgets) {
            forgets = false;
            countAnew(at);
            return open ? Then.RESTARTED : Then.WAITS;
        }
        if (!open) {
            return Then.WAITS;
        }
        left -= seconds;
        boolean told = answered.value().equals(number.value());
        if (told && again) {
            // It has not understood, and asks for the same once more.
            again = false;
            number.set(0L, at);
            left = patience * 10;
            return Then.WAITS;
        }
        if (number.value().equals(0L)) {
            number.set(counted, at);
            return Then.WAITS;
        }
        if (told) {
            return Then.TOLD;
        }
        if (left <= 0) {
            return Then.LATE;
        }
        if (!sturdy && of.chance(4000, 1)) {
            countAnew(at);
            return Then.RESTARTED;
        }
        return Then.WAITS;
    }

    private void countAnew(Instant at) {
        counted = 0;
        epoch.set(Math.max((Long) epoch.value() + 1, at.getEpochSecond()), at);
        answered.set(0L, at);
    }

    /** Whether somebody is asked. */
    boolean asks() {
        return open && !number.value().equals(0L);
    }

    long number() {
        return (Long) number.value();
    }

    long epoch() {
        return (Long) epoch.value();
    }

    /** Of the present request; 0 where it is not answered. */
    long code() {
        return answered.value().equals(number.value()) ? (Long) code.value() : 0;
    }

    String text() {
        return (String) text.value();
    }
}
