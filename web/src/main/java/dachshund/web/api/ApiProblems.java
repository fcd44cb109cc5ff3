package dachshund.web.api;

import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.destination.StoreProblem;
import dachshund.core.source.LinkProblem;
import io.swagger.v3.oas.models.Components;
import io.swagger.v3.oas.models.OpenAPI;
import io.swagger.v3.oas.models.info.Info;
import io.swagger.v3.oas.models.security.SecurityScheme;
import java.util.NoSuchElementException;
import org.springframework.context.annotation.Bean;
import org.springframework.core.Ordered;
import org.springframework.core.annotation.Order;
import org.springframework.http.HttpStatus;
import org.springframework.http.ProblemDetail;
import org.springframework.http.converter.HttpMessageNotReadableException;
import org.springframework.security.access.AccessDeniedException;
import org.springframework.web.bind.ServletRequestBindingException;
import org.springframework.web.bind.annotation.ExceptionHandler;
import org.springframework.web.bind.annotation.RestControllerAdvice;
import org.springframework.web.method.annotation.MethodArgumentTypeMismatchException;

/** What goes wrong in the API, as problem details (RFC 9457), and its description in OpenAPI. */
@RestControllerAdvice(
        assignableTypes = {
            ApiController.class,
            RecorderApiController.class,
            HistoryApiController.class,
            TransactionApiController.class
        })
@Order(Ordered.HIGHEST_PRECEDENCE)
class ApiProblems {

    @Bean
    static OpenAPI description() {
        return new OpenAPI()
                .info(
                        new Info()
                                .title("Dachshund")
                                .version("1")
                                .description(
                                        "Tags of the plant for programs: list and search, read, write, listen; recorders: how they stand, and their rows; transactions: how they stand, and done by a call."))
                .components(new Components()
                        .addSecuritySchemes(
                                "token",
                                new SecurityScheme()
                                        .type(SecurityScheme.Type.HTTP)
                                        .scheme("bearer")));
    }

    private static ProblemDetail problem(HttpStatus status, String title, String detail) {
        ProblemDetail problem = ProblemDetail.forStatusAndDetail(status, detail);
        problem.setTitle(title);
        return problem;
    }

    @ExceptionHandler(NoSuchElementException.class)
    ProblemDetail notThere(NoSuchElementException problem) {
        return problem(HttpStatus.NOT_FOUND, "Not here", String.valueOf(problem.getMessage()));
    }

    @ExceptionHandler({
        IllegalArgumentException.class,
        ServletRequestBindingException.class,
        MethodArgumentTypeMismatchException.class
    })
    ProblemDetail notUnderstood(Exception problem) {
        return problem(HttpStatus.BAD_REQUEST, "Not understood", String.valueOf(problem.getMessage()));
    }

    @ExceptionHandler(HttpMessageNotReadableException.class)
    ProblemDetail notReadable(HttpMessageNotReadableException problem) {
        return problem(
                HttpStatus.BAD_REQUEST,
                "Not understood",
                "The body is no JSON of the shape that is described in /api/v1/openapi.json.");
    }

    @ExceptionHandler(AccessDeniedException.class)
    ProblemDetail denied(AccessDeniedException problem) {
        return problem(
                HttpStatus.FORBIDDEN,
                "Not in the scope of this token",
                "This needs the scope " + problem.getMessage().replace("SCOPE_", "") + ".");
    }

    @ExceptionHandler(LinkProblem.class)
    ProblemDetail refused(LinkProblem problem) {
        return problem(HttpStatus.CONFLICT, "Not written", problem.getMessage());
    }

    @ExceptionHandler(StoreProblem.class)
    ProblemDetail away(StoreProblem problem) {
        return problem(HttpStatus.SERVICE_UNAVAILABLE, "The destination is away", problem.getMessage());
    }

    @ExceptionHandler(Problem.class)
    ProblemDetail away(Problem problem) {
        return problem(HttpStatus.SERVICE_UNAVAILABLE, "The archive does not answer", problem.getMessage());
    }

    @ExceptionHandler(ApiStreams.TooMany.class)
    ProblemDetail tooMany(ApiStreams.TooMany problem) {
        return problem(HttpStatus.TOO_MANY_REQUESTS, "Too many streams", problem.getMessage());
    }
}
