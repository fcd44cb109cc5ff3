package dachshund.core.transaction;

import dachshund.core.formula.Formula;
import dachshund.core.formula.FormulaProblem;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.time.Instant;
import java.util.Collections;
import java.util.HashMap;
import java.util.Map;
import java.util.TreeMap;

/**
 * What a run knows so far, by name, without regard to case: Boolean, Number, String, LocalDate, LocalTime, Instant, or nothing. Of
 * one thread.
 */
public final class Values {

    private final Map<String, Object> all = new TreeMap<>(String.CASE_INSENSITIVE_ORDER);
    private final Prepared prepared;
    private final Instant now;

    /** @param now for formulas that ask */
    public Values(Prepared prepared, Instant now) {
        this.prepared = prepared;
        this.now = now;
    }

    /** @param value null for nothing */
    public Values put(String name, Object value) {
        all.put(name, value);
        return this;
    }

    public boolean has(String name) {
        return all.containsKey(name);
    }

    /** Null where it is nothing, or not there. */
    public Object get(String name) {
        return all.get(name);
    }

    public Map<String, Object> all() {
        return Collections.unmodifiableMap(all);
    }

    /** What begins with the prefix is forgotten. */
    void forget(String prefix) {
        all.keySet().removeIf(name -> name.regionMatches(true, 0, prefix, 0, prefix.length()));
    }

    /**
     * What a formula gives; a name alone gives whatever it stands for, nothing included.
     *
     * @return null for nothing
     * @throws FormulaProblem with a sentence
     */
    public Object of(String formula) throws FormulaProblem {
        String text = formula.strip();
        if (all.containsKey(text)) {
            return all.get(text);
        }
        Formula read = prepared.take(text, all.keySet());
        try {
            return result(read);
        } finally {
            prepared.giveBack(read);
        }
    }

    private Object result(Formula read) throws FormulaProblem {
        Map<String, Object> known = new HashMap<>();
        for (String input : read.inputs()) {
            Object value = all.get(input);
            if (value != null) {
                known.put(input, value);
            }
        }
        return read.result(known, now);
    }

    /** Whether a condition is true; a condition of nothing is not. */
    public boolean holds(String condition) throws FormulaProblem {
        Object is = of(condition);
        if (is instanceof Boolean truth) {
            return truth;
        }
        if (is instanceof Number number) {
            return number.doubleValue() != 0;
        }
        if (is == null) {
            return false;
        }
        throw new FormulaProblem(
                condition + " is \"" + is + "\", which is neither true nor false.", 0, condition.length());
    }

    /** As it is bound: whole numbers as Long, others as BigDecimal. */
    public static Object bound(Object value) {
        if (value instanceof BigInteger whole) {
            return bound(new BigDecimal(whole));
        }
        if (value instanceof BigDecimal number) {
            return number.stripTrailingZeros().scale() <= 0 && number.precision() - number.scale() < 19
                    ? (Object) number.longValue()
                    : number;
        }
        return value instanceof Double || value instanceof Float
                ? bound(BigDecimal.valueOf(((Number) value).doubleValue()))
                : value instanceof Integer || value instanceof Short ? (Object) ((Number) value).longValue() : value;
    }

    /** As people read it. */
    public static String words(Object value) {
        if (value == null) {
            return "nothing";
        }
        if (value instanceof Boolean truth) {
            return truth ? "yes" : "no";
        }
        return value instanceof BigDecimal number
                ? number.stripTrailingZeros().toPlainString()
                : value instanceof Double number ? words(BigDecimal.valueOf(number)) : value.toString();
    }
}
