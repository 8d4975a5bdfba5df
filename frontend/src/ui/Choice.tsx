/* Choosing one of a few: a select that reads as text, and a row of segments. */
import { ChevronDown } from "lucide-react";
import { Select, ToggleGroup } from "radix-ui";
import { useId } from "react";
import { useMadeWhenAsked } from "./useMadeWhenAsked";

export interface Option<T extends string> {
  value: T;
  text: string;
  /** The heading it stands under, where the choices are many; those of one heading follow each other. */
  group?: string;
}

export function Pick<T extends string>({
  label,
  value,
  options,
  onChange,
  quiet = false,
}: {
  label: string;
  value: T;
  options: readonly Option<T>[];
  onChange: (value: T) => void;
  quiet?: boolean;
}) {
  // A select is made only once it is asked for: a table has hundreds, and making them is what scrolling would wait for.
  const { asked, setAsked, closed } = useMadeWhenAsked();
  const id = useId();
  const look = `inline-flex shrink-0 items-center whitespace-nowrap gap-1 rounded-md px-1 text-left hover:text-permanganate ${quiet ? "" : "border-b border-graphite/60 rounded-b-none"}`;
  if (!asked)
    return (
      <button
        ref={closed}
        type="button"
        role="combobox"
        aria-expanded={false}
        aria-haspopup="listbox"
        aria-controls={id}
        aria-label={label}
        className={look}
        onClick={() => setAsked(true)}
        onKeyDown={(event) => {
          if (event.key !== "ArrowDown" && event.key !== "ArrowUp") return;
          event.preventDefault();
          setAsked(true);
        }}
      >
        <span>{options.find((option) => option.value === value)?.text ?? value}</span>
        <ChevronDown size={12} />
      </button>
    );
  return (
    <Select.Root
      defaultOpen
      value={value}
      onValueChange={(next) => onChange(next as T)}
      onOpenChange={(open) => !open && setAsked(false)}
    >
      <Select.Trigger aria-label={label} className={look}>
        <Select.Value />
        <Select.Icon>
          <ChevronDown size={12} />
        </Select.Icon>
      </Select.Trigger>
      <Select.Portal>
        <Select.Content
          position="popper"
          sideOffset={4}
          className="z-50 max-h-[320px] rounded-md border border-rule bg-chalk p-1 shadow-lg"
        >
          <Select.Viewport>
            {options.map((option, i) => (
              <Select.Group key={option.value}>
                {option.group && option.group !== options[i - 1]?.group && (
                  <Select.Label className="px-3 pt-2 pb-0.5 text-sm text-graphite">
                    {option.group}
                  </Select.Label>
                )}
                <Select.Item
                  value={option.value}
                  className="rounded-md px-3 py-1 outline-none select-none data-[highlighted]:bg-permanganate-tint data-[state=checked]:font-semibold"
                >
                  <Select.ItemText>{option.text}</Select.ItemText>
                </Select.Item>
              </Select.Group>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  );
}

export function Segments<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: T;
  options: readonly Option<T>[];
  onChange: (value: T) => void;
}) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      onValueChange={(next) => next && onChange(next as T)}
      className="inline-flex shrink-0 overflow-hidden rounded-md border border-rule bg-chalk text-sm"
    >
      {options.map((option) => (
        <ToggleGroup.Item
          key={option.value}
          value={option.value}
          className="whitespace-nowrap px-2.5 py-1 text-graphite data-[state=on]:bg-ink data-[state=on]:text-chalk"
        >
          {option.text}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
