package dachshund.web.page;

import dachshund.core.archive.ArchiveStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.reader.QueryProblem;
import dachshund.core.secret.SecretBox;
import dachshund.core.source.LinkProblem;
import dachshund.core.window.WindowProblem;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.EditedByOther;
import dachshund.office.heavy.Heavy;
import dachshund.office.own.OwnDatabase;
import dachshund.office.trend.Trends.Undrawn;
import dachshund.web.backup.BroughtBack;
import dachshund.web.people.Right;
import dachshund.web.people.RightsHeld;
import dachshund.web.pulse.PulseMeter;
import dachshund.web.tls.PagesTls;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.util.List;
import java.util.NoSuchElementException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.propertyeditors.CustomCollectionEditor;
import org.springframework.dao.DataAccessException;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.http.ProblemDetail;
import org.springframework.http.ResponseEntity;
import org.springframework.transaction.TransactionException;
import org.springframework.ui.Model;
import org.springframework.web.HttpRequestMethodNotSupportedException;
import org.springframework.web.bind.WebDataBinder;
import org.springframework.web.bind.annotation.ControllerAdvice;
import org.springframework.web.bind.annotation.ExceptionHandler;
import org.springframework.web.bind.annotation.InitBinder;
import org.springframework.web.bind.annotation.ModelAttribute;

/** The frame of every page, and the sentences for what can go wrong on any of them. */
@ControllerAdvice
class PageAdvice {

    private static final Logger LOG = LoggerFactory.getLogger(PageAdvice.class);

    private final Definitions definitions;
    private final OwnDatabase database;
    private final PulseMeter pulse;
    private final Times times;
    private final SecretBox secrets;
    private final BroughtBack broughtBack;
    private final PagesTls tls;

    PageAdvice(
            Definitions definitions,
            OwnDatabase database,
            PulseMeter pulse,
            Times times,
            SecretBox secrets,
            BroughtBack broughtBack,
            PagesTls tls) {
        this.definitions = definitions;
        this.database = database;
        this.pulse = pulse;
        this.times = times;
        this.secrets = secrets;
        this.broughtBack = broughtBack;
        this.tls = tls;
    }

    /** One value of a list stays one, though there be commas in it: addresses of tags have them. */
    @InitBinder
    void lists(WebDataBinder binder) {
        binder.registerCustomEditor(List.class, new CustomCollectionEditor(List.class));
    }

    @ModelAttribute
    void frame(Model model, HttpServletRequest request) {
        String path = request.getServletPath();
        String workspace = path.matches("/(plant|records|review|deliver|watch)(/.*)?") ? path.split("/")[1] : "";
        String person = request.getUserPrincipal() == null
                ? ""
                : request.getUserPrincipal().getName();
        model.addAttribute(
                "frame",
                new Frame(
                        workspace,
                        person,
                        RightsHeld.has(Right.DESIGN),
                        RightsHeld.has(Right.MANAGE_PEOPLE),
                        definitions.drafts().size(),
                        database.answers() ? "" : database.trouble(),
                        tls.trouble(),
                        secrets.lost(),
                        broughtBack.unread().map(BroughtBack.Account::when).orElse(null),
                        definitions.release(),
                        times.zone()));
        model.addAttribute("pulse", pulse.latest());
    }

    @ExceptionHandler(EditedByOther.class)
    String edited(EditedByOther problem, Model model, HttpServletRequest request, HttpServletResponse response) {
        return tell(HttpStatus.CONFLICT, "Changed by somebody else", problem.getMessage(), model, request, response);
    }

    @ExceptionHandler({DataAccessException.class, TransactionException.class})
    String databaseAway(Exception problem, Model model, HttpServletRequest request, HttpServletResponse response) {
        LOG.warn("Our own database: {}", problem.getMessage());
        return tell(
                HttpStatus.SERVICE_UNAVAILABLE,
                "Our own database is away",
                Sentences.OWN_DATABASE_AWAY,
                model,
                request,
                response);
    }

    @ExceptionHandler(StoreProblem.class)
    String destinationAway(
            StoreProblem problem, Model model, HttpServletRequest request, HttpServletResponse response) {
        return tell(
                HttpStatus.SERVICE_UNAVAILABLE,
                "The destination is away",
                problem.getMessage(),
                model,
                request,
                response);
    }

    /** What was asked for cannot be told as it was asked. */
    @ExceptionHandler({QueryProblem.class, WindowProblem.class, Undrawn.class})
    String notAsAsked(Exception problem, Model model, HttpServletRequest request, HttpServletResponse response) {
        return tell(HttpStatus.BAD_REQUEST, "Not as it was asked", problem.getMessage(), model, request, response);
    }

    /** A source, the archive or the second process does not answer, or not now. */
    @ExceptionHandler({LinkProblem.class, ArchiveStore.Problem.class, Heavy.Unable.class})
    String notNow(Exception problem, Model model, HttpServletRequest request, HttpServletResponse response) {
        return tell(HttpStatus.SERVICE_UNAVAILABLE, "Not now", problem.getMessage(), model, request, response);
    }

    @ExceptionHandler({
        NoSuchElementException.class,
        org.springframework.web.servlet.resource.NoResourceFoundException.class
    })
    Object notThere(Exception problem, Model model, HttpServletRequest request, HttpServletResponse response) {
        if (ofApi(request)) {
            return problem(HttpStatus.NOT_FOUND, "Not here", "The API has no such address.");
        }
        return tell(HttpStatus.NOT_FOUND, "Not here", Sentences.NOT_HERE, model, request, response);
    }

    @ExceptionHandler({
        IllegalArgumentException.class,
        org.springframework.web.bind.ServletRequestBindingException.class,
        IndexOutOfBoundsException.class
    })
    String notUnderstood(Exception problem, Model model, HttpServletRequest request, HttpServletResponse response) {
        return tell(
                HttpStatus.BAD_REQUEST,
                "Not understood",
                problem.getMessage() == null ? "The request lacks something." : problem.getMessage(),
                model,
                request,
                response);
    }

    @ExceptionHandler(HttpRequestMethodNotSupportedException.class)
    Object notSo(
            HttpRequestMethodNotSupportedException problem,
            Model model,
            HttpServletRequest request,
            HttpServletResponse response) {
        String allowed = String.join(
                ", ", problem.getSupportedMethods() == null ? new String[0] : problem.getSupportedMethods());
        response.setHeader("Allow", allowed);
        String sentence = "This address takes " + allowed + ", not " + problem.getMethod() + ".";
        return ofApi(request)
                ? problem(HttpStatus.METHOD_NOT_ALLOWED, "Not in this way", sentence)
                : tell(HttpStatus.METHOD_NOT_ALLOWED, "Not in this way", sentence, model, request, response);
    }

    private static boolean ofApi(HttpServletRequest request) {
        return request.getServletPath().startsWith("/api/");
    }

    private static ResponseEntity<ProblemDetail> problem(HttpStatus status, String title, String sentence) {
        ProblemDetail problem = ProblemDetail.forStatusAndDetail(status, sentence);
        problem.setTitle(title);
        return ResponseEntity.status(status)
                .contentType(MediaType.APPLICATION_PROBLEM_JSON)
                .body(problem);
    }

    private String tell(
            HttpStatus status,
            String title,
            String sentence,
            Model model,
            HttpServletRequest request,
            HttpServletResponse response) {
        if (response.isCommitted()) {
            // Half of a file is with its reader: no page goes behind it, and what was thrown ends the connection.
            throw new IllegalStateException("It broke off in the middle: " + sentence);
        }
        if (response.containsHeader("Content-Disposition")) {
            response.reset();
        }
        frame(model, request);
        response.setStatus(status.value());
        model.addAttribute("title", title);
        model.addAttribute("sentence", sentence);
        if (request.getHeader("HX-Request") == null) {
            return "page/problem";
        }
        response.setHeader("HX-Retarget", "#notice");
        response.setHeader("HX-Reswap", "innerHTML");
        return "page/notice :: notice";
    }
}
