package dachshund.standins.plant;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;

/**
 * The scale at the gate: a truck comes every few minutes, stands still, and its controller asks for a ticket by a number.
 */
public final class Weighbridge extends Equipment {

    /** Plates that the order office knows; the last one it does not. */
    static final String[] PLATES = {
        "QM 101", "QM 102", "QM 117", "HB 2204", "HB 2219", "KL 73", "KL 78", "RN 5001", "RN 5014", "TS 640", "XX 9"
    };

    private static final double PATIENCE = 30;

    private enum Phase {
        EMPTY,
        SETTLING,
        ASKED,
        LEAVING
    }

    private final PlantTag weight = measured("Weight", 0, "kg", 0, 60_000, "What stands on the scale");
    private final PlantTag stable = state("Stable", false, "The weight does not move any more");
    private final PlantTag plate = state("Truck", "", "Its plate, as the gate has read it");
    private final Handshake request = new Handshake(this, "");
    private final PlantTag ticket = written("Ticket number", 0L, "Shown on the display at the gate");
    private final PlantTag good = counter("Answers in time", 0, "", "Requests that were answered");
    private final PlantTag refused = counter("Requests refused", 0, "", "Answered by: failed");
    private final PlantTag odd =
            counter("Answers that do not fit", 0, "", "The text does not name the ticket on the display");
    private final PlantTag late = counter("Requests without answer", 0, "", "Given up after " + (int) PATIENCE + " s");
    private volatile Phase phase = Phase.EMPTY;
    private double left = 40;
    private double load;
    private long askedUnder;
    private long asked;
    private final List<Visit> visits = new ArrayList<>();
    private volatile boolean hurried;
    private volatile boolean closed;

    /**
     * A truck that has left.
     *
     * @param number    of its request, under the epoch
     * @param code      of the answer; 0 where it has waited in vain
     * @param forgotten whether the controller was restarted while it waited, so that nobody there knows of an answer
     */
    public record Visit(
            long epoch,
            long number,
            String plate,
            double weight,
            long code,
            String text,
            long ticket,
            boolean forgotten) {}

    Weighbridge(long seed) {
        super("Intake/Weighbridge", seed);
    }

    /** From now on the next truck comes as soon as one has left, all wait for long, and what they were told is kept. */
    public void hurry() {
        hurried = true;
    }

    /** Its controller has lost its memory. */
    void forget() {
        request.forget();
    }

    /** No truck comes any more. */
    public void shut() {
        closed = true;
    }

    /** Whether a truck waits for its answer. */
    public boolean asks() {
        return phase == Phase.ASKED && request.asks();
    }

    public boolean empty() {
        return phase == Phase.EMPTY;
    }

    /** Those that have left since it was hurried. */
    public List<Visit> visits() {
        synchronized (visits) {
            return List.copyOf(visits);
        }
    }

    @Override
    void advance(double seconds, Instant at) {
        Handshake.Then then = request.advance(seconds, hurried, at);
        left -= seconds;
        follow(weight, phase == Phase.EMPTY || phase == Phase.LEAVING ? 0 : load, 1.5, 4, seconds, at);
        switch (phase) {
            case EMPTY -> {
                if (left <= 0 && !closed) {
                    plate.set(PLATES[chance(14, 1) ? PLATES.length - 1 : random.nextInt(PLATES.length - 1)], at);
                    load = 17_000 + random.nextInt(23_000);
                    turn(Phase.SETTLING, 12);
                }
            }
            case SETTLING -> {
                if (left <= 0) {
                    stable.set(true, at);
                    request.ask(hurried ? PATIENCE * 10 : PATIENCE, at);
                    askedUnder = request.epoch();
                    asked = request.number();
                    turn(Phase.ASKED, 0);
                }
            }
            case ASKED -> asked(then, at);
            case LEAVING -> {
                if (left <= 0) {
                    turn(Phase.EMPTY, 60 + random.nextInt(120));
                }
            }
        }
    }

    private void asked(Handshake.Then then, Instant at) {
        switch (then) {
            case TOLD -> {
                take(good, at);
                if (request.code() == 3) {
                    take(refused, at);
                } else if (request.code() == 1 && !request.text().equals("ticket " + ticket.value())) {
                    take(odd, at);
                }
                leave(false, at);
            }
            case LATE -> {
                // Before the first answer ever, nobody is there to give one.
                if ((Long) good.value() > 0) {
                    take(late, at);
                }
                leave(false, at);
            }
            case RESTARTED -> leave(true, at);
            case WAITS -> {
                // The truck stands there.
            }
        }
    }

    private static void take(PlantTag counter, Instant at) {
        counter.set((Long) counter.value() + 1, at);
    }

    private void leave(boolean forgotten, Instant at) {
        if (hurried) {
            synchronized (visits) {
                visits.add(new Visit(
                        askedUnder,
                        asked,
                        (String) plate.value(),
                        weight.number(),
                        forgotten ? 0 : request.code(),
                        request.text(),
                        (Long) ticket.value(),
                        forgotten));
            }
        }
        request.end(at);
        stable.set(false, at);
        plate.set("", at);
        turn(Phase.LEAVING, 15);
    }

    private void turn(Phase next, double seconds) {
        phase = next;
        left = hurried && next != Phase.ASKED ? Math.min(seconds, 0.4) : seconds;
    }
}
