package dachshund.engine.archive;

import dachshund.core.archive.ArchiveStore.Counts;
import java.nio.BufferUnderflowException;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;

/**
 * One entry of the archive's journal: what one batch of changes brought to one rule, with what was offered, passed over and
 * refused since the entry before. An entry without values says that the rule was at work then.
 *
 * @param design key of the list of tags that the numbers below stand for
 * @param run    of which run of the application
 * @param at     when it was written, in 100 ns ticks since 1601
 * @param counts what became of values since the entry before; nothing in it is replaced yet
 */
record ValueEntry(long design, long run, long at, Counts counts, List<Value> values) {

    static final int VERSION = 1;

    private static final byte NONE = 0;
    private static final byte NUMBER = 1;
    private static final byte WHOLE = 2;
    private static final byte TRUTH = 3;
    private static final byte TEXT = 4;
    private static final int HEAD = 3 * 8 + 3 * 4;
    private static final int MOST_OF_ONE = 4 + 8 + 4 + 1 + 8;

    /**
     * A value.
     *
     * @param tag   its place in the list of the design
     * @param time  ticks
     * @param mark  one of {@link dachshund.core.archive.Marks}
     * @param value Double, Long, Boolean or String; null for none
     */
    record Value(int tag, long time, int mark, Object value) {}

    byte[] write() {
        int room = HEAD;
        List<byte[]> texts = new ArrayList<>();
        for (Value each : values) {
            room += MOST_OF_ONE;
            if (each.value() instanceof String text) {
                byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
                texts.add(bytes);
                room += bytes.length;
            }
        }
        ByteBuffer to = ByteBuffer.allocate(room);
        to.putLong(design).putLong(run).putLong(at);
        to.putInt((int) counts.offered()).putInt((int) counts.within()).putInt((int) counts.refused());
        int text = 0;
        for (Value each : values) {
            to.putInt(each.tag()).putLong(each.time()).putInt(each.mark());
            Object value = each.value();
            if (value == null) {
                to.put(NONE);
            } else if (value instanceof Double number) {
                to.put(NUMBER).putDouble(number);
            } else if (value instanceof Long whole) {
                to.put(WHOLE).putLong(whole);
            } else if (value instanceof Boolean truth) {
                to.put(TRUTH).put((byte) (truth ? 1 : 0));
            } else {
                byte[] bytes = texts.get(text++);
                to.put(TEXT).putInt(bytes.length).put(bytes);
            }
        }
        byte[] all = new byte[to.position()];
        to.flip().get(all);
        return all;
    }

    /** @throws IllegalArgumentException where the bytes are no such entry */
    static ValueEntry read(byte[] body) {
        ByteBuffer from = ByteBuffer.wrap(body);
        try {
            long design = from.getLong();
            long run = from.getLong();
            long at = from.getLong();
            Counts counts = new Counts(from.getInt(), 0, 0, from.getInt(), from.getInt());
            List<Value> values = new ArrayList<>();
            while (from.hasRemaining()) {
                values.add(new Value(from.getInt(), from.getLong(), from.getInt(), value(from)));
            }
            return new ValueEntry(design, run, at, counts, values);
        } catch (BufferUnderflowException | NegativeArraySizeException broken) {
            throw new IllegalArgumentException("An entry of the archive's journal cannot be read.", broken);
        }
    }

    private static Object value(ByteBuffer from) {
        byte kind = from.get();
        return switch (kind) {
            case NONE -> null;
            case NUMBER -> from.getDouble();
            case WHOLE -> from.getLong();
            case TRUTH -> from.get() == 1;
            case TEXT -> {
                byte[] bytes = new byte[Math.min(from.getInt(), from.remaining())];
                from.get(bytes);
                yield new String(bytes, StandardCharsets.UTF_8);
            }
            default -> throw new IllegalArgumentException("A value of the archive's journal is of no known kind.");
        };
    }
}
