package dachshund.bench;

import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Proxy;
import java.util.List;
import java.util.function.Consumer;

/** A destination of which a benchmark sees what was committed, and which it can let be away. */
final class Tap {

    private final RowStore store;
    private volatile boolean away;
    private volatile Consumer<List<RowBatch>> committed = batches -> {};

    Tap(RowStore real) {
        store = (RowStore) Proxy.newProxyInstance(
                Tap.class.getClassLoader(), new Class<?>[] {RowStore.class}, (self, method, arguments) -> {
                    if (method.getName().equals("in") && "".equals(arguments[0])) {
                        return self;
                    }
                    if (away && method.getName().equals("write")) {
                        throw new StoreProblem(StoreProblem.Kind.AWAY, -1, "It is away for the benchmark.", null);
                    }
                    try {
                        Object answer = method.invoke(real, arguments);
                        if (method.getName().equals("write")) {
                            committed.accept(batches(arguments[0]));
                        }
                        return answer;
                    } catch (InvocationTargetException thrown) {
                        throw thrown.getCause();
                    }
                });
    }

    @SuppressWarnings("unchecked") // the one argument of write
    private static List<RowBatch> batches(Object argument) {
        return (List<RowBatch>) argument;
    }

    RowStore store() {
        return store;
    }

    void away(boolean now) {
        away = now;
    }

    /** Called by the threads that write, after each commit. */
    void onCommit(Consumer<List<RowBatch>> listener) {
        committed = listener;
    }
}
