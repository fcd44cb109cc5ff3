package dachshund.links.opcua;

import org.eclipse.milo.opcua.stack.core.StatusCodes;
import org.eclipse.milo.opcua.stack.core.UaException;
import org.eclipse.milo.opcua.stack.core.UaRuntimeException;
import org.eclipse.milo.opcua.stack.core.types.builtin.StatusCode;

/** Status codes and failures in words (OPC 10000-6, annex A.2). */
final class OpcUaWords {

    /** The lower half holds details that do not change what the code means (OPC 10000-4, 7.39.1). */
    private static final long MEANING = 0xFFFF0000L;

    private OpcUaWords() {}

    /** The status code inside a failure, 0 where there is none. */
    static long code(Throwable problem) {
        for (Throwable each = problem; each != null; each = each.getCause()) {
            if (each instanceof UaException ua) {
                return ua.getStatusCode().getValue();
            }
            if (each instanceof UaRuntimeException ua) {
                return ua.getStatusCode().getValue();
            }
        }
        return 0;
    }

    /** What a failure says, without class names. */
    static String of(Throwable problem) {
        long code = code(problem);
        if (code != 0) {
            return of(code);
        }
        Throwable root = problem;
        while (root.getCause() != null) {
            root = root.getCause();
        }
        return root.getMessage() == null ? "no reason given" : root.getMessage();
    }

    static String of(StatusCode status) {
        return of(status.getValue());
    }

    /** A status code in words, with its name. */
    static String of(long code) {
        return StatusCodes.lookup(code & MEANING)
                .map(nameAndWords -> nameAndWords[1].replaceAll("\\.$", "") + " (" + nameAndWords[0] + ")")
                .orElse(String.format("status 0x%08X", code));
    }
}
