package dachshund.web.pulse;

import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import org.springframework.http.MediaType;
import org.springframework.stereotype.Controller;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.ResponseBody;
import org.springframework.web.servlet.mvc.method.annotation.SseEmitter;

/** The stream behind the pulse line. */
@Needs(Right.DESIGN)
@Controller
class PulseController {

    private final PulseMeter meter;

    PulseController(PulseMeter meter) {
        this.meter = meter;
    }

    @GetMapping(path = "/pulse", produces = MediaType.TEXT_EVENT_STREAM_VALUE)
    @ResponseBody
    SseEmitter pulse() {
        return meter.listen();
    }
}
