/* Choosing one of a few: a select that reads as text, and a row of segments. */
import { ChevronDown } from "lucide-react";
import { Select, ToggleGroup } from "radix-ui";

export interface Option<T extends string> {
  value: T;
  text: string;
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
  return (
    <Select.Root value={value} onValueChange={(next) => onChange(next as T)}>
      <Select.Trigger
        aria-label={label}
        className={`inline-flex items-center gap-1 rounded-md px-1 text-left hover:text-permanganate ${quiet ? "" : "border-b border-graphite/60 rounded-b-none"}`}
      >
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
            {options.map((option) => (
              <Select.Item
                key={option.value}
                value={option.value}
                className="rounded-md px-3 py-1 outline-none select-none data-[highlighted]:bg-permanganate-tint data-[state=checked]:font-semibold"
              >
                <Select.ItemText>{option.text}</Select.ItemText>
              </Select.Item>
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
      className="inline-flex overflow-hidden rounded-md border border-rule bg-chalk text-sm"
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
