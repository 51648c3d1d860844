/* The part of the x11 package that we use; it has no types of its own. */
declare module 'x11' {
  export interface XEvent {
    name?: string;
    type: number;
    wid?: number;
    window?: number;
    x?: number;
    y?: number;
    width?: number;
    height?: number;
    detail?: number;
    keycode?: number;
    visibility?: number;
    sourceId?: number;
    rawValuators?: Record<number, number>;
    [key: string]: unknown;
  }
  type Reply<T> = (error: Error | null, result: T) => void | boolean;
  export interface XClient {
    display: XDisplay;
    stream: {
      destroy(): void;
      cork(): void;
      uncork(): void;
      on(name: string, listener: (error?: Error) => void): void;
    };
    on(name: 'event', listener: (event: XEvent) => void): void;
    on(name: 'error', listener: (error: Error) => void): void;
    on(name: 'end', listener: () => void): void;
    setMaxListeners(count: number): void;
    removeListener(name: string, listener: (...args: never[]) => void): void;
    AllocID(): number;
    require(name: string, callback: Reply<unknown>): void;
    InternAtom(onlyIfExists: boolean, name: string, callback: Reply<number>): void;
    CreateWindow(
      id: number,
      parent: number,
      x: number,
      y: number,
      width: number,
      height: number,
      border: number,
      depth: number,
      kind: number,
      visual: number,
      values: Record<string, number>,
    ): void;
    DestroyWindow(id: number): void;
    MapWindow(id: number): void;
    UnmapWindow(id: number): void;
    RaiseWindow(id: number): void;
    MoveWindow(id: number, x: number, y: number): void;
    ChangeWindowAttributes(id: number, values: Record<string, number>): void;
    ChangeProperty(mode: number, window: number, property: number, type: number, format: number, data: Buffer): void;
    DeleteProperty(window: number, property: number): void;
    atoms: Readonly<Record<string, number>>;
    GetProperty(
      remove: number,
      window: number,
      property: number,
      type: number,
      offset: number,
      length: number,
      callback: Reply<{ data: Buffer; type: number }>,
    ): void;
    ClearArea(window: number, x: number, y: number, width: number, height: number, exposures: number): void;
    CreateGC(id: number, drawable: number, values: Record<string, number>): void;
    PutImage(
      format: number,
      drawable: number,
      gc: number,
      width: number,
      height: number,
      x: number,
      y: number,
      leftPad: number,
      depth: number,
      data: Buffer,
    ): void;
    GetImage(
      format: number,
      drawable: number,
      x: number,
      y: number,
      width: number,
      height: number,
      planes: number,
      callback: Reply<{ data: Buffer }>,
    ): void;
    GetGeometry(
      drawable: number,
      callback: Reply<{
        xPos: number;
        yPos: number;
        width: number;
        height: number;
        borderWidth: number;
        depth: number;
      }>,
    ): void;
    TranslateCoordinates(
      from: number,
      to: number,
      x: number,
      y: number,
      callback: Reply<{ destX: number; destY: number }>,
    ): void;
    QueryPointer(window: number, callback: Reply<{ rootX: number; rootY: number; keyMask: number }>): void;
    QueryKeymap(callback: Reply<Buffer>): void;
    QueryTree(window: number, callback: Reply<{ parent: number; children: number[] }>): void;
    QueryExtension(name: string, callback: Reply<{ present: number; firstEvent: number }>): void;
    GetInputFocus(callback: Reply<{ focus: number }>): void;
    SetInputFocus(window: number, revertTo: number): void;
    GetKeyboardMapping(first: number, count: number, callback: Reply<number[][]>): void;
    GetModifierMapping(callback: Reply<number[][]>): void;
    ChangeKeyboardMapping(keycode: number, perKeycode: number, keysyms: number[]): void;
    ListFonts(pattern: string, max: number, callback: Reply<string[]>): void;
    sync(): Promise<void>;
    terminate(): void;
    seq_num: number;
    replies: Record<number, [(reply: Buffer) => unknown, Reply<never>]>;
    ConvertSelection(requestor: number, selection: number, target: number, property: number, time: number): void;
    SetSelectionOwner(window: number, selection: number, time: number): void;
    SendEvent(destination: number, propagate: number, mask: number, event: Buffer): void;
    GetSelectionOwner(selection: number, callback: Reply<number>): void;
    CreatePixmap(id: number, drawable: number, depth: number, width: number, height: number): void;
    FreePixmap(id: number): void;
    GetAtomName(atom: number, callback: Reply<string>): void;
    ConfigureWindow(id: number, values: Record<string, number>): void;
    GetWindowAttributes(
      id: number,
      callback: Reply<{ mapState: number; overrideRedirect: number; klass: number }>,
    ): void;
    pack_stream: { put(data: Buffer): void; submit(hasReply?: boolean): void };
  }
  export interface XScreen {
    root: number;
    pixel_width: number;
    pixel_height: number;
    root_depth: number;
  }
  export interface XDisplay {
    client: XClient;
    screen: XScreen[];
    min_keycode: number;
    resource_mask: number;
    resource_base: number;
    max_keycode: number;
  }
  export interface ShmSegment {
    detach(callback: Reply<unknown>): void;
    readonly size: number;
    readonly buffer: Buffer;
    getImage(
      drawable: number,
      x: number,
      y: number,
      width: number,
      height: number,
      planes: number,
      format: number,
      offset: number,
      callback: Reply<unknown>,
    ): void;
    close?(): void;
    destroy?(): void;
  }
  export interface Shm {
    createSegment(size: number, callback: Reply<ShmSegment>): void;
  }
  export interface Damage {
    ReportLevel: Record<string, number>;
    Create(damage: number, drawable: number, level: number): void;
    Destroy(damage: number): void;
    Subtract(damage: number, repair: number, parts: number): void;
  }
  export interface Fixes {
    CreateRegion(region: number, rectangles: unknown[]): void;
    DestroyRegion(region: number): void;
    CreateRegionFromWindow(region: number, window: number, kind: number): void;
    SetPictureClipRegion(picture: number, region: number, x: number, y: number): void;
    SetWindowShapeRegion(window: number, kind: number, x: number, y: number, region: number): void;
    FetchRegion(
      region: number,
      callback: Reply<{ rectangles: { x: number; y: number; width: number; height: number }[] }>,
    ): void;
    SelectSelectionInput(window: number, selection: number, mask: number): void;
    SelectCursorInput(window: number, mask: number): void;
    GetCursorImage(
      callback: Reply<{ width: number; height: number; xhot: number; yhot: number; cursorImage: Buffer }>,
    ): void;
  }
  export interface Composite {
    majorOpcode: number;
    Redirect: Record<string, number>;
    RedirectSubwindows(window: number, how: number): void;
    GetOverlayWindow(window: number, callback: Reply<number>): void;
  }
  export interface Render {
    rgb24: number;
    rgba32: number;
    PictOp: Record<string, number>;
    CreatePicture(picture: number, drawable: number, format: number, values: Record<string, number>): void;
    FreePicture(picture: number): void;
    Composite(
      operation: number,
      source: number,
      mask: number,
      target: number,
      sourceX: number,
      sourceY: number,
      maskX: number,
      maskY: number,
      targetX: number,
      targetY: number,
      width: number,
      height: number,
    ): void;
  }
  export interface XTest {
    majorOpcode: number;
    FakeInput(type: number, detail: number, time: number, window: number, x: number, y: number): void;
  }
  export interface XInput {
    majorOpcode: number;
    EventMask: Record<string, number>;
    XIQueryVersion(major: number, minor: number, callback: Reply<unknown>): void;
    XIQueryDevice(device: number, callback: Reply<{ deviceId: number; name: string; use: number }[]>): void;
    XISelectEvents(window: number, masks: { deviceId: number; mask: number }[]): void;
  }
  export interface Randr {
    majorOpcode: number;
    firstEvent: number;
    SelectInput(window: number, mask: number): void;
    QueryVersion(major: number, minor: number, callback: Reply<unknown>): void;
  }
  export interface Shape {
    Op: Record<string, number>;
    Kind: Record<string, number>;
    SelectInput(window: number, isOn: number): void;
    QueryExtents(window: number, callback: Reply<{ boundingShaped: boolean }>): void;
    GetRectangles(
      window: number,
      kind: number,
      callback: Reply<{ rectangles: [number, number, number, number][] }>,
    ): void;
    Rectangles(
      operation: number,
      kind: number,
      window: number,
      x: number,
      y: number,
      rectangles: readonly unknown[],
    ): void;
  }
  const x11: {
    createClient(options: Record<string, unknown>, callback: Reply<XDisplay>): XClient;
    eventMask: Record<string, number>;
    keySyms: Record<string, number | number[] | { code: number }>;
  };
  export default x11;
}
