package dachshund.standins.plant;

import java.time.Instant;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.CopyOnWriteArrayList;

/**
 * Records of full pallets, queued in the bagger's controller: the oldest stands in its tags under an index of its own until
 * somebody confirms that index; then the next one does. What is refused, or not confirmed over a restart, stands there again. The
 * queue has room for fifty; the index outlives restarts.
 */
final class PalletRecords {

    private static final int ROOM = 50;
    /** Before the first confirmation ever, nobody is there to give one. */
    private static final int ROOM_ALONE = 2;

    private static final int BAGS = 66;
    private static final int FEW_BAGS = 4;
    private static final double RESTART = 8;

    private final Equipment of;
    private final PlantTag index;
    private final PlantTag lot;
    private final PlantTag bags;
    private final PlantTag weight;
    private final PlantTag waiting;
    private final PlantTag lost;
    private final PlantTag done;
    private final PlantTag confirmed;
    private final PlantTag code;
    private final Deque<Pallet> queue = new ArrayDeque<>();
    private volatile boolean hurried;
    private volatile boolean forgets;
    private long made;
    private int onPallet;
    private double grams;
    private double pause;

    /** Those that were confirmed, as they are. */
    private final List<String> taken = new CopyOnWriteArrayList<>();

    private record Pallet(long index, String lot, long bags, double kilos) {
        private String words() {
            return String.format(Locale.ROOT, "%d %s %d %.1f", index, lot, bags, kilos);
        }
    }

    PalletRecords(Equipment of) {
        this.of = of;
        lot = of.state("Record lot", "", "Of the pallet that stands first in the queue");
        bags = of.state("Record bags", 0L, "On it");
        weight = of.measured("Record net weight", 0, "kg", 0, 1500, "On it");
        index = of.state("Record index", 0L, "Tells it from all others; 0 while there is none to take");
        waiting = of.state("Records waiting", 0L, "In the queue");
        lost = of.counter("Records lost", 0, "", "For which there was no room");
        done = of.counter("Records confirmed", 0, "", "Taken out of the queue");
        confirmed = of.written("Confirmed record", 0L, "Index of the record that is safe, or was refused");
        code = of.written("Confirmation code", 0L, "1 safe, 3 refused");
    }

    /** A bag goes onto the pallet. */
    void bag(double weighs, String of) {
        onPallet++;
        grams += weighs;
        if (onPallet < (hurried ? FEW_BAGS : BAGS)) {
            return;
        }
        queue.add(new Pallet(++made, of, onPallet, Math.round(grams / 100) / 10.0));
        onPallet = 0;
        grams = 0;
    }

    /** From now on a pallet is full after a few bags. */
    void hurry() {
        hurried = true;
    }

    /** The controller has lost its memory, but for the queue and its index. */
    void forget() {
        forgets = true;
    }

    /** Index, lot, bags and kilos of each that was confirmed, in their order. */
    List<String> confirmed() {
        return List.copyOf(taken);
    }

    void advance(double seconds, Instant at) {
        // As the last index before its start would be in a memory that outlives it.
        made = made == 0 ? at.getEpochSecond() : made;
        boolean alone = done.value().equals(0L);
        while (queue.size() > (alone ? ROOM_ALONE : ROOM)) {
            queue.poll();
            if (!alone) {
                lost.set((Long) lost.value() + 1, at);
            }
        }
        waiting.set((long) queue.size(), at);
        pause -= seconds;
        if (forgets) {
            forgets = false;
            confirmed.set(0L, at);
            index.set(0L, at);
            pause = RESTART;
        }
        Pallet first = queue.peek();
        long shown = (Long) index.value();
        if (shown == 0) {
            if (first != null && pause <= 0) {
                lot.set(first.lot(), at);
                bags.set(first.bags(), at);
                weight.set(first.kilos(), at);
                index.set(first.index(), at);
            }
        } else if (first == null || first.index() != shown) {
            index.set(0L, at);
        } else if (confirmed.value().equals(shown)) {
            if (code.value().equals(3L)) {
                // It stands there again, and whoever has refused it has to look anew.
                confirmed.set(0L, at);
                pause = RESTART * 4;
            } else {
                taken.add(first.words());
                queue.poll();
                done.set((Long) done.value() + 1, at);
                pause = 0.5;
            }
            index.set(0L, at);
        } else if (!alone && of.chance(3000, seconds)) {
            index.set(0L, at);
            pause = RESTART;
        }
    }
}
