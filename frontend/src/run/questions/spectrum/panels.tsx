/* The choices of every step of spectra. */
import { Pick } from "../../../ui/Choice";
import { useOpenRun } from "../../state/open";
import { CheckList } from "../../working/CheckList";
import { NumberField, ON_OFF, OptionalNumber, PickRow, Row, useStep } from "../../working/fields";
import { ListField, WindowField } from "./fields";
import { readPlaces, readRatios, readSpans, spansText } from "./typed";

const CONVERT = [
  { value: "as read", text: "as read" },
  { value: "absorbance", text: "as absorbance of transmittance" },
  { value: "transmittance", text: "as transmittance of absorbance" },
] as const;
const AXIS = [
  { value: "as read", text: "as read" },
  { value: "nm", text: "nm" },
  { value: "1/cm", text: "1/cm" },
] as const;

export function ScanSignalPanel() {
  const { step, set } = useStep("scan_signal");
  return (
    <>
      <PickRow
        says="Scans are taken"
        label="Taken"
        value={step.convert ?? "as read"}
        options={CONVERT}
        onChange={(convert) => set({ convert }, `Signal: ${convert}`)}
      />
      <PickRow
        says="Axis in"
        value={step.axis ?? "as read"}
        options={AXIS}
        onChange={(axis) => set({ axis }, `Signal: axis ${axis}`)}
      />
    </>
  );
}

const BASELINES = [
  { value: "none", text: "none" },
  { value: "offset", text: "a constant" },
  { value: "line", text: "a straight line" },
  { value: "polynomial", text: "a polynomial" },
] as const;

export function CorrectPanel() {
  const { step, set } = useStep("correct");
  const windows = step.windows ?? [];
  return (
    <>
      <PickRow
        says="The blank scan is subtracted"
        label="Blank scan"
        value={step.blank === false ? "off" : "on"}
        options={ON_OFF}
        onChange={(on) => set({ blank: on === "on" }, `Correct: blank ${on}`)}
      />
      <PickRow
        says="Baseline"
        value={step.baseline ?? "none"}
        options={BASELINES}
        onChange={(baseline) => set({ baseline }, `Correct: baseline ${baseline}`)}
      />
      {step.baseline && step.baseline !== "none" && (
        <Row label="through the points of">
          <ListField
            label="Windows of the baseline"
            given={spansText(windows)}
            read={readSpans}
            need="Type windows where nothing absorbs, such as 400–420; 700–750."
            onCommit={(next) => set({ windows: next }, `Correct: baseline through ${spansText(next)}`)}
          />
          <span className="text-sm text-graphite">such as 400–420; 700–750</span>
        </Row>
      )}
      {step.baseline === "polynomial" && (
        <PickRow
          says="Degree"
          label="Degree of the baseline"
          value={String(step.degree ?? 2)}
          options={["2", "3", "4", "5", "6"].map((value) => ({ value, text: value }))}
          onChange={(degree) => set({ degree: Number(degree) }, `Correct: baseline of degree ${degree}`)}
        />
      )}
      <Row label="Scattered light, judged over">
        <WindowField
          label="Window of scatter"
          window={step.scatter ?? null}
          onCommit={(next) =>
            set({ scatter: next.lower === null ? null : next }, `Correct: scatter ${spansText([next])}`)
          }
        />
        <span className="text-sm text-graphite">where nothing absorbs; empty: not taken off</span>
      </Row>
    </>
  );
}

export function SmoothPanel() {
  const { step, set } = useStep("smooth");
  const points = ["0", "5", "7", "9", "11", "15", "21", "31", "51"];
  const now = String(step.points ?? 0);
  return (
    <>
      <PickRow
        says="Points in a window"
        value={now}
        options={[...new Set([...points, now])].map((value) => ({
          value,
          text: value === "0" ? "not smoothed" : value,
        }))}
        onChange={(value) => set({ points: Number(value) }, `Smooth: ${value} points`)}
      />
      <PickRow
        says="Polynomial of degree"
        value={String(step.degree ?? 2)}
        options={["1", "2", "3", "4"].map((value) => ({ value, text: value }))}
        onChange={(value) => set({ degree: Number(value) }, `Smooth: degree ${value}`)}
      />
      <PickRow
        says="Drawn and read off"
        label="Derivative"
        value={String(step.derivative ?? 0) as "0"}
        options={[
          { value: "0", text: "the scans" },
          { value: "1", text: "their first derivative" },
          { value: "2", text: "their second derivative" },
        ]}
        onChange={(value) => set({ derivative: Number(value) }, `Smooth: derivative ${value}`)}
      />
    </>
  );
}

const NORMALIZE = [
  { value: "none", text: "nothing" },
  { value: "peak", text: "one highest point" },
  { value: "area", text: "one area" },
  { value: "at", text: "one value at a place" },
] as const;

export function CombinePanel() {
  const { step, set } = useStep("combine");
  const { curves } = useOpenRun().view.revision.outcome;
  const names = [...new Set([...curves.map((each) => each.key ?? ""), step.against ?? ""])].filter(Boolean);
  return (
    <>
      <PickRow
        says="Replicates are drawn"
        label="Replicates"
        value={step.replicates ?? "mean"}
        options={[
          { value: "mean", text: "as their mean" },
          { value: "each", text: "each by itself" },
        ]}
        onChange={(replicates) => set({ replicates }, `Combine: replicates ${replicates}`)}
      />
      <Row label="All others">
        <Pick
          label="How scans are held against another"
          value={step.how ?? "minus"}
          options={[
            { value: "minus", text: "less" },
            { value: "divided", text: "divided by" },
          ]}
          onChange={(how) => set({ how: how as "minus" }, `Combine: ${how}`)}
        />
        <Pick
          label="Scan that others are held against"
          value={step.against ?? ""}
          options={[{ value: "", text: "nothing" }, ...names.map((value) => ({ value, text: value }))]}
          onChange={(against) => set({ against }, `Combine: against ${against || "nothing"}`)}
        />
      </Row>
      <PickRow
        says="All are brought to"
        label="Normalized to"
        value={step.normalize ?? "none"}
        options={NORMALIZE}
        onChange={(normalize) => set({ normalize }, `Combine: to ${normalize}`)}
      />
      {step.normalize === "at" && (
        <Row label="at">
          <NumberField
            key={step.at}
            label="Place of one value"
            value={step.at ?? null}
            onCommit={(at) => set({ at }, `Combine: at ${at}`)}
          />
        </Row>
      )}
      {(step.normalize === "peak" || step.normalize === "area") && (
        <Row label="between">
          <WindowField
            label="Window of what is brought together"
            window={step.window ?? null}
            onCommit={(window) => set({ window }, `Combine: between ${spansText([window])}`)}
          />
        </Row>
      )}
    </>
  );
}

export function PeaksPanel() {
  const { step, set } = useStep("peaks");
  const picked = step.picked ?? [];
  return (
    <>
      <Row label="Between">
        <WindowField
          label="Window of the peaks"
          window={step.window ?? null}
          onCommit={(window) => set({ window }, `Peaks: between ${spansText([window])}`)}
        />
        <span className="text-sm text-graphite">such as 480–620; empty: everywhere</span>
      </Row>
      <Row label="All that stand out by">
        <OptionalNumber
          key={String(step.prominence)}
          label="Least prominence"
          value={step.prominence ?? null}
          fits={(value) => value > 0}
          need="Type a number above zero, or nothing to leave it to Dosis."
          onCommit={(prominence) => set({ prominence }, `Peaks: prominence ${prominence ?? "by itself"}`)}
        />
        <span className="text-sm text-graphite">empty: 5 % of the highest, and six times the noise</span>
      </Row>
      <Row label="Picked near">
        <ListField
          label="Peaks picked near"
          given={picked.join("; ")}
          read={readPlaces}
          need="Type places, such as 498; 565, or pick them on the figure."
          onCommit={(next) => set({ picked: next }, `Peaks: picked near ${next.join(", ") || "none"}`)}
        />
        <span className="text-sm text-graphite">or by a click on the figure</span>
      </Row>
    </>
  );
}

export function AtPanel() {
  const { step, set } = useStep("at");
  return (
    <>
      <Row label="Values at">
        <ListField
          label="Values at"
          given={(step.places ?? []).join("; ")}
          read={readPlaces}
          need="Type places, such as 498; 565."
          onCommit={(places) => set({ places }, `At: ${places.join(", ") || "none"}`)}
        />
        <span className="text-sm text-graphite">such as 498; 565</span>
      </Row>
      <Row label="Areas from">
        <ListField
          label="Areas from"
          given={spansText(step.areas ?? [])}
          read={readSpans}
          need="Type windows, such as 480–620."
          onCommit={(areas) => set({ areas }, `At: areas ${spansText(areas) || "none"}`)}
        />
        <span className="text-sm text-graphite">such as 480–620</span>
      </Row>
      <Row label="Ratios of">
        <ListField
          label="Ratios of"
          given={(step.ratios ?? []).map((each) => `${each.over}/${each.under}`).join("; ")}
          read={readRatios}
          need="Type two places with a slash, such as 565/498."
          onCommit={(ratios) =>
            set(
              { ratios },
              `At: ratios ${ratios.map((each) => `${each.over}/${each.under}`).join(", ") || "none"}`,
            )
          }
        />
        <span className="text-sm text-graphite">such as 565/498</span>
      </Row>
    </>
  );
}

export function MixturePanel() {
  const { step, set } = useStep("mixture");
  return (
    <>
      <Row label="Least squares between">
        <WindowField
          label="Window of the mixture"
          window={step.window ?? null}
          onCommit={(window) => set({ window }, `Mixture: between ${spansText([window])}`)}
        />
      </Row>
      <PickRow
        says="Amounts below zero are"
        label="Amounts below zero"
        value={step.not_negative ? "off" : "on"}
        options={[
          { value: "on", text: "let stand" },
          { value: "off", text: "held at zero" },
        ]}
        onChange={(on) => set({ not_negative: on === "off" }, `Mixture: below zero ${on}`)}
      />
      <PickRow
        says="A constant level besides is"
        label="Constant level"
        value={step.constant ? "on" : "off"}
        options={ON_OFF}
        onChange={(on) => set({ constant: on === "on" }, `Mixture: constant ${on}`)}
      />
      <p className="text-sm text-graphite">
        Scans that are references are the components: give them that role, and their level.
      </p>
    </>
  );
}

export function ScanChecksPanel() {
  const { step, set } = useStep("scan_checks");
  return (
    <>
      <Row label="Noise at most">
        <NumberField
          key={step.noise}
          label="Noise at most, share of the range"
          value={step.noise ?? 0.02}
          fits={(value) => value > 0 && value <= 1}
          need="Type a share above 0 and up to 1, such as 0.02."
          onCommit={(noise) => set({ noise }, `Checks: noise ${noise}`)}
        />
        of a scan's range
      </Row>
      <Row label="Saturated above an absorbance of">
        <NumberField
          key={step.saturation}
          label="Saturated above"
          value={step.saturation ?? null}
          fits={(value) => value > 0 && value <= 100}
          need="Type an absorbance above zero."
          onCommit={(saturation) => set({ saturation }, `Checks: saturated above ${saturation}`)}
        />
      </Row>
      <Row label="Baseline within">
        <NumberField
          key={step.baseline}
          label="Baseline within, share of the range"
          value={step.baseline ?? 0.05}
          fits={(value) => value > 0 && value <= 1}
          need="Type a share above 0 and up to 1, such as 0.05."
          onCommit={(baseline) => set({ baseline }, `Checks: baseline ${baseline}`)}
        />
        of a scan's range
      </Row>
      <CheckList />
    </>
  );
}
